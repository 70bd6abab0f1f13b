import { theme, type ThemeConfig } from 'antd';
import { COLOURS, FONTS } from './tokens';

/** Ant Design under Oikon's own tokens: compact, small radius, hairlines instead of shadows. */
export const ANTD_THEME: ThemeConfig = {
  algorithm: theme.compactAlgorithm,
  // The library's sheet is loaded as a file, rather than written by the script as each component first appears.
  zeroRuntime: true,
  token: {
    colorPrimary: COLOURS.pine,
    colorInfo: COLOURS.pine,
    colorSuccess: COLOURS.pine,
    colorLink: COLOURS.pine,
    // Under the pointer it is read as well as before, on every ground.
    colorLinkHover: COLOURS.ink,
    colorLinkActive: COLOURS.ink,
    colorError: COLOURS.alarm,
    colorTextBase: COLOURS.ink,
    colorTextPlaceholder: COLOURS.slate,
    colorTextDescription: COLOURS.slate,
    colorTextDisabled: COLOURS.slate,
    colorBgLayout: COLOURS.paper,
    colorBorder: '#C9C3B4',
    colorBorderSecondary: COLOURS.hairline,
    fontFamily: FONTS.text,
    fontFamilyCode: FONTS.mono,
    fontSize: 14,
    borderRadius: 3,
    borderRadiusLG: 4,
    boxShadow: `0 0 0 1px ${COLOURS.hairline}`,
    boxShadowSecondary: `0 0 0 1px ${COLOURS.hairline}, 0 6px 18px rgb(34 48 43 / 10%)`,
    motionDurationMid: '0.12s',
    motionDurationSlow: '0.16s',
    // Where a choice is both taken and pointed at it is read as well as before.
    controlItemBgActive: COLOURS.pineTint,
    controlItemBgActiveHover: COLOURS.pineTint,
    wireframe: false,
  },
  components: {
    Button: { primaryShadow: 'none', defaultShadow: 'none', fontWeight: 560 },
    Table: {
      headerBg: COLOURS.sheet,
      headerColor: COLOURS.slate,
      headerSplitColor: 'transparent',
      rowHoverBg: COLOURS.pineTint,
      cellPaddingBlockSM: 6,
    },
    Dropdown: { controlItemBgHover: COLOURS.pineTint },
    Select: { optionSelectedBg: COLOURS.pineTint, optionActiveBg: COLOURS.pineTint },
    Segmented: { itemColor: COLOURS.ink, trackBg: '#EAE4D7' },
    Modal: { titleFontSize: 18 },
  },
};

/** The same for those who asked their system for less motion: menus and dialogs stand where they belong at once. */
export const STILL_THEME: ThemeConfig = { ...ANTD_THEME, token: { ...ANTD_THEME.token, motion: false } };

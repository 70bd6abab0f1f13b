/** The cookie in which a browser remembers how numbers and dates are written in a workspace, so that a page shows them so at once. */
export const FORM_COOKIE = 'oikon-form';

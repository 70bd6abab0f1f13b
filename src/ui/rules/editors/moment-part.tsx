'use client';

import { momentWords } from '@/core/rules';
import { certain } from '@/core/values';
import { Radio } from 'antd';
import { type CascadeDraft, NEW_CHANGE, reachIn } from '@/ui/rules/drafts/cascade-draft';
import { ChangeTests } from '@/ui/rules/fields/change-tests';
import { Done, FormPart } from '@/ui/expression/part';
import type { EditorProps } from './editor-props';

const MOMENTS = [
  { value: 'inStep', label: 'kept in step: always equal' },
  { value: 'atCreation', label: 'as they are made or come under it' },
  { value: 'onChange', label: 'when something changes' },
] as const;

const MEANS = {
  inStep: 'People can’t edit the fields where the rule applies.',
  atCreation: 'What a person entered stands, and later changes aren’t cascaded.',
  onChange: 'What people change later stands until the next change.',
} as const;

/** When it cascades: always, at creation, or on which change. */
export function MomentPart({
  model,
  draft,
  onChange,
  nameOf,
  isWrong,
}: Pick<EditorProps<CascadeDraft>, 'model' | 'draft' | 'onChange' | 'nameOf'> & { isWrong: boolean }) {
  const { moment, type } = draft;
  const kind = moment === null || typeof moment === 'string' ? moment : 'onChange';
  const reach = reachIn(model, draft);
  const isBeneath = reach === 'beneath';
  const bare = moment === null || typeof moment === 'string' ? moment : { ...moment, where: null };
  const text = bare && type ? momentWords(model, { type, moment: bare }, nameOf) : null;
  return (
    <FormPart label="When" text={text} hint="when" isWrong={isWrong}>
      {(close) => (
        <>
          <Radio.Group
            aria-label="When"
            value={kind}
            orientation="vertical"
            options={MOMENTS.map((one) => ({
              ...one,
              disabled:
                !draft.route ||
                (one.value === 'inStep' && (reach === 'itself' || draft.isAllTheWay)) ||
                (one.value === 'atCreation' && (draft.isAllTheWay || (!isBeneath && reach !== 'siblings'))),
            }))}
            onChange={(event) => {
              const chosen = event.target.value as (typeof MOMENTS)[number]['value'];
              onChange({
                ...draft,
                moment: chosen === 'onChange' ? NEW_CHANGE(model, certain(type)) : chosen,
              });
            }}
          />
          {kind ? <span className="quiet">{MEANS[kind]}</span> : null}
          {moment !== null && typeof moment !== 'string' && type ? (
            <ChangeTests
              {...{ model, type, nameOf }}
              tests={moment.tests}
              onChange={(tests) => onChange({ ...draft, moment: { ...moment, tests } })}
            />
          ) : null}
          <Done close={close} />
        </>
      )}
    </FormPart>
  );
}

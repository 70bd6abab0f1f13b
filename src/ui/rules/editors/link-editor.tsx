'use client';

import { type Model, openLinkOf, selfLinksOf, typeIn } from '@/core/model';
import { compileRule, holdsWords, type LinkPart, wayWordsOf } from '@/core/rules';
import { foundIn } from '@/core/values';
import { Condition } from '@/ui/expression/condition';
import { type EditorProps, othersKeeping, problemAt } from './editor-props';
import { fieldsWithWhy } from '@/ui/expression/field-choices';
import {
  linkOf,
  type LinkDraft,
  linksToFill,
  namedBy,
  NEW_LINK,
  waysOffered,
  withTarget,
} from '@/ui/rules/drafts/link-draft';
import { linkTo, useNewField } from '@/ui/rules/fields/new-field';
import { MatchPart } from './match-part';
import { PacePart } from '@/ui/rules/fields/pace-part';
import type { Choice } from '@/ui/expression/choices';
import { MenuPart } from '@/ui/expression/part';
import { TellsPart } from '@/ui/rules/fields/tells-part';
import editorsStyle from './editors.module.css';
import expressionStyle from '@/ui/expression/expression.module.css';
import rulesStyle from '@/ui/rules/rules.module.css';

export type LinkEditorProps = EditorProps<LinkDraft>;

/** A link rule as a sentence. */
export function LinkEditor(props: LinkEditorProps) {
  const { model, draft, onChange, problems, nameOf } = props;
  const type = draft.type ? model.type(draft.type) : undefined;
  const named = namedBy(model, draft);
  const isWrong = (part: LinkPart) => problemAt(problems, part) !== undefined;
  const ways = waysOffered(model, draft);
  const { find } = draft;
  const open = type && draft.target ? openLinkOf(type, draft.target) : undefined;
  return (
    <div className={expressionStyle.sentence} role="group" aria-label="Sentence of the rule">
      On every{' '}
      <MenuPart
        label="Type of record"
        text={type?.name ?? null}
        hint="type of record"
        isWrong={isWrong('type')}
        choices={model.types.map(({ key, name }) => ({ key, name }))}
        onChoose={(key) => onChange({ ...NEW_LINK, type: key })}
      />
      {open ? ` whose ${open.name} names no other` : ''}
      {type ? (
        <Condition
          {...{ model, nameOf }}
          type={type.key}
          condition={draft.appliesWhen}
          goesOn
          onChange={(appliesWhen) => onChange({ ...draft, appliesWhen })}
        />
      ) : null}
      ,{' '}
      <MenuPart
        label="When it holds"
        text={holdsWords(draft.holds)}
        hint=""
        isWrong={isWrong('holds')}
        choices={[
          { key: 'always', name: 'keep', note: 'always so; people can’t enter it where the rule applies' },
          { key: 'whereEmpty', name: 'where it is empty, link', note: 'and again when somebody clears it' },
        ]}
        onChoose={(key) => onChange({ ...draft, holds: key as LinkDraft['holds'], pace: 'withTheSave' })}
      />{' '}
      <LinkTarget {...props} isWrong={isWrong('target')} />
      {draft.holds === 'always' ? ' linked to ' : ' to '}
      <MenuPart
        label="What it is linked to"
        text={findText(props)}
        hint="a record"
        isWrong={isWrong('find')}
        choices={ways.map(({ key, name }) => ({ key, name }))}
        takesSole
        nothing="Choose the link first."
        onChoose={(key) => onChange({ ...draft, find: foundIn(ways, (way) => way.key === key).find })}
      />
      {find?.kind === 'match' && type && named ? (
        <MatchPart {...props} find={find} named={named} isWrong={isWrong} />
      ) : null}
      {find?.kind === 'route' && find.topmost !== null ? (
        <>
          ; where nothing is above:{' '}
          <MenuPart
            label="Where nothing is above"
            text={find.whenNoneAbove === 'itself' ? 'itself' : 'none'}
            hint=""
            choices={[
              { key: 'itself', name: 'itself' },
              { key: 'empty', name: 'none' },
            ]}
            onChoose={(key) =>
              onChange({ ...draft, find: { ...find, whenNoneAbove: key as 'itself' | 'empty' } })
            }
          />
        </>
      ) : null}
      .{' '}
      {find ? (
        <span className={editorsStyle.sentenceTail}>
          When none is found:{' '}
          <MenuPart
            label="When none is found"
            text={draft.none === 'leave' ? 'left as it is' : 'emptied'}
            hint=""
            isWrong={isWrong('none')}
            choices={[
              { key: 'leave', name: 'left as it is' },
              { key: 'clear', name: 'emptied' },
            ]}
            onChoose={(key) => onChange({ ...draft, none: key as LinkDraft['none'] })}
          />
          .{' '}
          {find.kind === 'match' && find.several === 'ask' ? (
            <TellsPart tells={draft.tells} onChange={(tells) => onChange({ ...draft, tells })} />
          ) : null}
          {draft.holds === 'always' ? (
            <PacePart
              pace={draft.pace}
              isWrong={isWrong('pace')}
              asking={type?.fields.filter((field) => field.type.kind === 'yesNo') ?? []}
              onChange={(pace) => onChange({ ...draft, pace })}
            />
          ) : (
            <>
              <span className={rulesStyle.partFixed}>With the save</span>.
            </>
          )}
        </span>
      ) : null}
    </div>
  );
}

/** The link that is filled: one of those that can be, or one that is made for it. */
function LinkTarget(props: LinkEditorProps & { readonly isWrong: boolean }) {
  const { model, draft, isWrong, onChange } = props;
  const { ask, dialog } = useNewField(model);
  const type = draft.type ? model.type(draft.type) : undefined;
  const target = type && draft.target ? model.field(type.key, draft.target) : undefined;
  const keptBy = (field: string) => othersKeeping(props, draft.type, field)[0]?.rule.name;
  const links = type ? fieldsWithWhy(linksToFill(model, type.key, keptBy)) : [];
  const choose = (key: string) => {
    const named = newLinkTo(key);
    if (!named || !type) onChange(withTarget(model, draft, key));
    else
      ask({
        type,
        begins: linkTo(model, type, typeIn(model, named)),
        onMade: (field) => onChange({ ...draft, target: field.key, find: null }),
      });
  };
  return (
    <>
      <MenuPart
        label="Link that is filled"
        text={target?.name ?? null}
        hint="a link"
        isWrong={isWrong}
        choices={[...links, ...(type ? [newLinks(model, type.key)] : [])]}
        takesSole
        nothing={type ? 'No link of this type can be filled by a rule.' : 'Choose the type of record first.'}
        onChoose={choose}
      />
      {dialog}
    </>
  );
}

const NEW_LINK_TO = 'new link to ';

/** The type that a new link is to name, where such a one is chosen. */
const newLinkTo = (key: string): string | null =>
  key.startsWith(NEW_LINK_TO) ? key.slice(NEW_LINK_TO.length) : null;

/** Links that could be made, by what they name; one to its own type where records of it lie above each other already. */
const newLinks = (model: Model, type: string): Choice => ({
  ...{ key: NEW_LINK_TO, name: 'a new link to …', isAside: true },
  children: model.types
    .filter(({ key }) => key !== type || selfLinksOf(model, type).length > 0)
    .map(({ key, name }) => ({ key: `${NEW_LINK_TO}${key}`, name })),
});

/** Where the record is found, in words; of what is the same only its type, since the rest are parts of their own. */
function findText({ model, draft }: Pick<LinkEditorProps, 'model' | 'draft'>): string | null {
  const { find } = draft;
  if (!find) return null;
  const named = namedBy(model, draft);
  if (find.kind === 'match') return named ? `the ${typeIn(model, named).name}` : null;
  const definition = linkOf(draft);
  const compiled = definition && compileRule(model, { id: '', version: '', name: '', definition });
  if (compiled?.ok && compiled.rule.kind === 'linked' && compiled.rule.find.kind === 'route') {
    const { value, topmost } = compiled.rule.find;
    return wayWordsOf(model, { kind: 'route', value, topmost: topmost && { ...topmost, isItself: true } });
  }
  return find.route.join(' › ');
}

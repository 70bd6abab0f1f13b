'use client';

import { describe, typeCondition } from '@/core/expression';
import {
  type Field,
  fieldIn,
  kindWords,
  type Link as ModelLink,
  type Model,
  type OpenLink,
  openLinkOf,
  type RecordType,
  typeIn,
} from '@/core/model';
import { Button } from 'antd';
import { MayButton } from '@/ui/kit/may-button';
import { Link } from '@/ui/kit/navigation';
import type { Open } from './dialogs/dialog-state';
import { type RuleOnModel, wayOfUse } from './rules-on';
import { usersOf } from './dialogs/selection-dialog';
import { RollUpGlyph } from '@/ui/theme/glyphs';
import modelStyle from './model.module.css';
import style from './type-panel.module.css';

export interface TypePanelProps {
  readonly model: Model;
  readonly type: RecordType;
  readonly rules: readonly RuleOnModel[];
  /** The field that is pointed out. */
  readonly field: string | null;
  readonly onField: (field: string | null) => void;
  readonly onOpen: (open: Open) => void;
}

/** A type: its fields with their kinds, which rules use them, its links both ways, and how to change each. */
export function TypePanel({ model, type, rules, field: chosen, onField, onOpen }: TypePanelProps) {
  const below = model.linksTo(type.key);
  return (
    <section className="sheet" aria-label={`Type ${type.name}`}>
      <div className="sheet-head">
        <h2>{type.name}</h2>
        {type.bridge ? <span className="quiet">a bridge</span> : null}
        <span style={{ marginLeft: 'auto' }}>
          <Link href={`/records/${type.key}`}>{type.plural}</Link>
        </span>
      </div>
      <table className={modelStyle.typeLines}>
        <thead>
          <tr>
            <th scope="col">Field</th>
            <th scope="col">Kind</th>
            <th scope="col">
              <span className="visually-hidden">Change</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {(type.openLinks ?? []).map((open) => (
            <OpenLinkRow key={open.key} {...{ model, type, open, onOpen }} />
          ))}
          {type.fields.map((field) => (
            <FieldRow
              key={field.key}
              {...{ model, type, field, rules, onOpen, onField }}
              isChosen={chosen === field.key}
            />
          ))}
        </tbody>
      </table>
      <Below {...{ model, below }} />
      <Selections {...{ model, type, rules, onOpen }} />
      <div className={style.typeActions}>
        <MayButton right="administer" onClick={() => onOpen({ kind: 'addField', type: type.key })}>
          Add a field
        </MayButton>
        <MayButton right="administer" onClick={() => onOpen({ kind: 'addLink', type: type.key })}>
          Add a link
        </MayButton>
        <MayButton right="administer" onClick={() => onOpen({ kind: 'addOpenLink', type: type.key })}>
          Add an open link
        </MayButton>
        <MayButton right="administer" onClick={() => onOpen({ kind: 'addSelection', type: type.key })}>
          Add a selection
        </MayButton>
        <MayButton right="administer" onClick={() => onOpen({ kind: 'arrange', type: type.key })}>
          Arrange its page …
        </MayButton>
        <MayButton right="administer" onClick={() => onOpen({ kind: 'order', type: type.key })}>
          Order its fields …
        </MayButton>
        <Button onClick={() => onOpen({ kind: 'whereUsed', named: { kind: 'type', type: type.key } })}>
          Where it is used …
        </Button>
        <MayButton right="administer" onClick={() => onOpen({ kind: 'changeType', type: type.key })}>
          Change the type …
        </MayButton>
        <MayButton right="administer" danger onClick={() => onOpen({ kind: 'removeType', type: type.key })}>
          Remove …
        </MayButton>
      </div>
    </section>
  );
}

interface RowProps extends Pick<TypePanelProps, 'model' | 'type' | 'rules' | 'onField' | 'onOpen'> {
  readonly field: Field;
  readonly isChosen: boolean;
}

function FieldRow({ model, type, field, rules, isChosen, onField, onOpen }: RowProps) {
  const used = rules.flatMap((rule) => {
    const use = wayOfUse(rule, type.key, field.key);
    return use ? [{ rule, use }] : [];
  });
  const keeper = used.find(({ rule, use }) => use === 'writes' && rule.state === 'live');
  const open = openLinkOf(type, field.key);
  const flags = [
    field.key === type.title ? 'names the record' : '',
    open ? `one of ${open.name}` : '',
    field.required ? 'required' : '',
    field.unique ? 'unique' : '',
    (field.type.kind === 'choice' || field.type.kind === 'choices') && field.type.list ? 'from a list' : '',
  ].filter(Boolean);
  return (
    <tr aria-selected={isChosen}>
      <td>
        <button
          type="button"
          className="plain part"
          aria-expanded={isChosen}
          onClick={() => onField(isChosen ? null : field.key)}
        >
          {field.name}
        </button>{' '}
        {keeper ? <RollUpGlyph size={14} label="Kept by a rule" /> : null}
        {flags.length > 0 ? <div className="flags">{flags.join(' · ')}</div> : null}
        {isChosen ? (
          <Uses
            {...{ field, used }}
            onAll={() =>
              onOpen({ kind: 'whereUsed', named: { kind: 'field', type: type.key, field: field.key } })
            }
          />
        ) : null}
      </td>
      <td>{kindWords(model, field.type)}</td>
      <td style={{ whiteSpace: 'nowrap', textAlign: 'right' }}>
        <MayButton
          right="administer"
          size="small"
          type="text"
          aria-label={`Change ${field.name}`}
          onClick={() => onOpen({ kind: 'changeField', type: type.key, field: field.key })}
        >
          Change
        </MayButton>
        {field.key === type.title ? null : (
          <MayButton
            right="administer"
            size="small"
            type="text"
            aria-label={`Remove ${field.name}`}
            onClick={() => onOpen({ kind: 'removeField', type: type.key, field: field.key })}
          >
            Remove
          </MayButton>
        )}
      </td>
    </tr>
  );
}

/** A link whose parent may be of several types; its links stand among the fields. */
function OpenLinkRow({
  model,
  type,
  open,
  onOpen,
}: Pick<TypePanelProps, 'model' | 'type' | 'onOpen'> & { open: OpenLink }) {
  const parents = open.links.flatMap((link) => {
    const { type: of } = fieldIn(model, type.key, link);
    return of.kind === 'link' ? [typeIn(model, of.target).name] : [];
  });
  return (
    <tr>
      <td>
        {open.name}
        {open.required ? <div className="flags">required</div> : null}
        {open.help ? <div className="quiet">{open.help}</div> : null}
      </td>
      <td>open link to {parents.join(' or ')}</td>
      <td style={{ whiteSpace: 'nowrap', textAlign: 'right' }}>
        <MayButton
          right="administer"
          size="small"
          type="text"
          aria-label={`Change ${open.name}`}
          onClick={() => onOpen({ kind: 'changeOpenLink', type: type.key, open: open.key })}
        >
          Change
        </MayButton>
        <MayButton
          right="administer"
          size="small"
          type="text"
          aria-label={`Remove ${open.name}`}
          onClick={() => onOpen({ kind: 'removeOpenLink', type: type.key, open: open.key })}
        >
          Remove
        </MayButton>
      </td>
    </tr>
  );
}

function Uses({
  field,
  used,
  onAll,
}: {
  field: Field;
  onAll: () => void;
  used: readonly { readonly rule: RuleOnModel; readonly use: 'reads' | 'writes' }[];
}) {
  return (
    <>
      {field.help ? <div className="quiet">{field.help}</div> : null}
      {used.length === 0 ? (
        <div className="quiet">No rule reads or writes it.</div>
      ) : (
        <ul className={style.typeUses}>
          {used.map(({ rule, use }) => (
            <li key={rule.id}>
              {use === 'writes' ? 'written by' : 'read by'}{' '}
              <Link href={`/rules/${rule.id}`}>{rule.name}</Link>{' '}
              <span className="quiet">({rule.state})</span>
            </li>
          ))}
        </ul>
      )}
      <Button size="small" type="link" onClick={onAll}>
        Where it is used …
      </Button>
    </>
  );
}

/** Named conditions on the type: what each says, and what uses it. */
function Selections({
  model,
  type,
  rules,
  onOpen,
}: Pick<TypePanelProps, 'model' | 'type' | 'rules' | 'onOpen'>) {
  const selections = (model.selections ?? []).filter((selection) => selection.type === type.key);
  if (selections.length === 0) return null;
  return (
    <table className={modelStyle.typeLines} aria-label={`Selections of ${type.plural}`}>
      <thead>
        <tr>
          <th scope="col">Selection</th>
          <th scope="col">
            <span className="visually-hidden">Change</span>
          </th>
        </tr>
      </thead>
      <tbody>
        {selections.map(({ key, name, condition }) => {
          const typed = typeCondition(model, type.key, condition);
          const users = usersOf(model, rules, key);
          return (
            <tr key={key}>
              <td>
                {name}
                <div className="flags">{typed.ok ? describe(model, typed.value) : typed.problem.message}</div>
                <div className="flags">{users.length > 0 ? `Used by ${users.join(', ')}` : ''}</div>
              </td>
              <td style={{ whiteSpace: 'nowrap', textAlign: 'right' }}>
                <Button
                  size="small"
                  type="text"
                  aria-label={`Where ${name} is used`}
                  onClick={() => onOpen({ kind: 'whereUsed', named: { kind: 'selection', selection: key } })}
                >
                  Uses
                </Button>
                <MayButton
                  right="administer"
                  size="small"
                  type="text"
                  aria-label={`Change ${name}`}
                  onClick={() => onOpen({ kind: 'changeSelection', type: type.key, selection: key })}
                >
                  Change
                </MayButton>
                <MayButton
                  right="administer"
                  size="small"
                  type="text"
                  aria-label={`Remove ${name}`}
                  onClick={() => onOpen({ kind: 'removeSelection', type: type.key, selection: key })}
                >
                  Remove
                </MayButton>
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

function Below({ model, below }: { model: Model; below: readonly ModelLink[] }) {
  if (below.length === 0) return null;
  return (
    <p className="quiet" style={{ margin: 0, padding: '8px 12px', borderTop: '1px solid var(--hairline)' }}>
      Beneath it hang{' '}
      {below
        .map(({ field, type }) => `${field.otherEnd} (${typeIn(model, type).plural}, by ${field.name})`)
        .join('; ')}
      .
    </p>
  );
}

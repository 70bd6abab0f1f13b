'use client';

import { type Model, type RecordType, typeIn } from '@/core/model';
import type { ModelView } from '@/core/api';
import { Button, Dropdown, Segmented, Select } from 'antd';
import { useMemo, useState } from 'react';
import { apiPath } from '@/ui/api/client';
import { modelOf, useModelView, useRules } from '@/ui/api/queries';
import { download } from '@/ui/kit/download';
import { Loading } from '@/ui/kit/loading';
import { useRouter } from '@/ui/kit/navigation';
import { useWhyNot } from '@/ui/api/may';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { FieldDialog, ListDialog, RemoveFieldDialog } from './dialogs/model-dialogs';
import { TypeDialog, RemoveTypeDialog } from './dialogs/type-dialogs';
import { TemplateDialog } from './from-file/template-dialog';
import { mapMermaid, mapSvg } from './map/map-export';
import { OpenLinkDialog, RemoveOpenLinkDialog } from './dialogs/open-link-dialog';
import { linesOf, type RuleOnModel, rulesOn, wayOfUse } from './rules-on';
import { OrderDialog } from './dialogs/order-dialog';
import { SectionsDialog } from './dialogs/sections-dialog';
import { RemoveSelectionDialog, SelectionDialog } from './dialogs/selection-dialog';
import { TypePanel } from './type-panel';
import { WHOLE_MAP } from './map/map-shape';
import { MapPart } from './map/map-part';
import { useMap } from './map/use-map';
import type { Named } from '@/core/verify';
import { WhereUsedDialog } from '@/ui/uses/where-used-dialog';
import type { Open } from './dialogs/dialog-state';
import { clsx } from 'clsx';
import modelStyle from './model.module.css';
import style from './model-page.module.css';

/** The types of record and their links, drawn and listed; each can be looked into and changed. */
export function ModelPage() {
  const view = useModelView();
  const rules = useRules();
  const model = useMemo(() => (view.data ? modelOf(view.data) : null), [view.data]);
  const onModel = useMemo(
    () => (model && rules.data ? rulesOn(model, rules.data.rules) : []),
    [model, rules.data],
  );
  if (view.error) return <ProblemNotice error={view.error} />;
  if (!view.data || !model) return <Loading what="the model" />;
  return <TheModel view={view.data} model={model} rules={onModel} />;
}

interface TheModelProps {
  readonly view: ModelView;
  readonly model: Model;
  readonly rules: readonly RuleOnModel[];
}

function TheModel({ view, model, rules }: TheModelProps) {
  const [shown, setShown] = useState<'map' | 'list'>('map');
  const [chosen, setChosen] = useState<string | null>(view.types[0]?.key ?? null);
  const [field, setField] = useState<string | null>(null);
  const [rule, setRule] = useState<string | null>(null);
  const [open, setOpen] = useState<Open | null>(null);
  const whyNot = useWhyNot('administer');
  const may = whyNot === null ? {} : { disabled: true, title: whyNot };
  const type = (chosen === null ? undefined : model.type(chosen)) ?? view.types[0] ?? null;
  const choose = (key: string) => {
    setChosen(key);
    if (key !== type?.key) setField(null);
  };
  /** One thing is pointed out at a time: a rule, or a field with the rules that use it. */
  const pointField = (key: string | null) => {
    setField(key);
    setRule(null);
  };
  const pointed = rules.filter((one) =>
    rule ? one.id === rule : field !== null && type !== null && wayOfUse(one, type.key, field) !== null,
  );
  const marked = useMemo(() => new Set(pointed.flatMap((one) => [...linesOf(model, one)])), [model, pointed]);
  const markedBoxes = useMemo(
    () =>
      new Set(
        pointed.flatMap(({ compiled }) => [
          compiled.writes.type,
          ...compiled.reads.map(({ type: from }) => from),
        ]),
      ),
    [pointed],
  );
  return (
    <>
      <header className="place-head">
        <h1>Model</h1>
        <Segmented
          aria-label="How the model is shown"
          value={shown}
          options={[
            { value: 'map', label: 'Map' },
            { value: 'list', label: 'List' },
          ]}
          onChange={setShown}
        />
        <Select
          aria-label="Point out a rule"
          allowClear
          placeholder="Point out a rule"
          value={rule}
          options={rules.map(({ id, name }) => ({ value: id, label: name }))}
          onChange={(id: string | undefined) => setRule(id ?? null)}
          showSearch={{ optionFilterProp: 'label' }}
          style={{ width: 260 }}
        />
        <div className={style.modelTools}>
          <Lists view={view} onOpen={setOpen} />
          <Exports view={view} />
          <Button {...may} onClick={() => setOpen({ kind: 'typeFromFile' })}>
            Type from a file
          </Button>
          <Button type="primary" {...may} onClick={() => setOpen({ kind: 'addType' })}>
            Add a type
          </Button>
        </div>
      </header>
      <div className={clsx('place-body', style.modelBody)}>
        <div className={clsx('sheet', style.modelMap)}>
          {shown === 'list' ? (
            <TypeList
              {...{ model, rules }}
              types={view.types}
              selected={type?.key ?? null}
              onSelect={choose}
            />
          ) : (
            <MapPart {...{ view, type, marked, markedBoxes }} onSelect={choose} />
          )}
        </div>
        <div className={style.modelSide}>
          {type ? (
            <TypePanel {...{ model, type, rules, field }} onField={pointField} onOpen={setOpen} />
          ) : (
            <div className="sheet nothing">
              <strong>There is no type of record yet</strong>
              Add one: what you keep records of, such as Exhibition or Loan. Or begin with a CSV file: its
              columns become fields.
            </div>
          )}
        </div>
      </div>
      {open ? <Dialog {...{ open, view }} onClose={() => setOpen(null)} onChoose={setChosen} /> : null}
    </>
  );
}

/** Where something of the model is named, called as people call it. */
function WhereUsed({ view, named, onClose }: { view: ModelView; named: Named; onClose: () => void }) {
  const type = 'type' in named ? view.types.find(({ key }) => key === named.type) : undefined;
  const field = 'field' in named ? type?.fields.find(({ key }) => key === named.field) : undefined;
  const selection =
    named.kind === 'selection' ? view.selections.find(({ key }) => key === named.selection) : undefined;
  const title = field ? `${field.name} of ${type?.plural}` : (selection?.name ?? type?.plural ?? '');
  const options =
    field?.type.kind === 'choice' || field?.type.kind === 'choices' ? field.type.options : undefined;
  return <WhereUsedDialog {...{ named, title, onClose }} {...(options ? { options } : {})} />;
}

interface OpenDialogProps {
  readonly open: Open;
  readonly view: ModelView;
  readonly onClose: () => void;
  readonly onChoose: (type: string | null) => void;
}

function Dialog({ open, view, onClose, onChoose }: OpenDialogProps) {
  const common = { model: view, onClose };
  if (open.kind === 'addType') return <TypeDialog {...common} before={null} onMade={onChoose} />;
  if (open.kind === 'typeFromFile') return <TemplateDialog {...common} onMade={onChoose} />;
  if (open.kind === 'addList') return <ListDialog {...common} before={null} />;
  if (open.kind === 'changeList')
    return <ListDialog {...common} before={view.lists.find(({ key }) => key === open.list) ?? null} />;
  if (open.kind === 'whereUsed') return <WhereUsed {...{ view, onClose }} named={open.named} />;
  const type = view.types.find(({ key }) => key === open.type);
  if (!type) return null;
  const read = { model: modelOf(view), version: view.version, onClose };
  switch (open.kind) {
    case 'changeType':
      return <TypeDialog {...common} before={type} />;
    case 'removeType':
      return <RemoveTypeDialog {...common} type={type} onGone={() => onChoose(null)} />;
    case 'addField':
    case 'addLink':
      return <FieldDialog {...common} type={type} before={null} isLink={open.kind === 'addLink'} />;
    case 'order':
      return <OrderDialog {...common} type={type} />;
    case 'addOpenLink':
      return <OpenLinkDialog {...read} type={type} before={null} />;
    case 'changeOpenLink':
    case 'removeOpenLink': {
      const link = type.openLinks?.find(({ key }) => key === open.open);
      if (!link) return null;
      return open.kind === 'changeOpenLink' ? (
        <OpenLinkDialog {...read} type={type} before={link} />
      ) : (
        <RemoveOpenLinkDialog {...read} type={type} open={link} />
      );
    }
    case 'arrange':
      return <SectionsDialog {...read} type={type} />;
    case 'addSelection':
      return <SelectionDialog {...read} type={type} before={null} />;
    case 'changeSelection':
    case 'removeSelection': {
      const selection = view.selections.find(({ key }) => key === open.selection);
      if (!selection) return null;
      return open.kind === 'changeSelection' ? (
        <SelectionDialog {...read} type={type} before={selection} />
      ) : (
        <RemoveSelectionDialog {...read} selection={selection} />
      );
    }
    case 'changeField':
    case 'removeField': {
      const field = type.fields.find(({ key }) => key === open.field);
      if (!field) return null;
      return open.kind === 'changeField' ? (
        <FieldDialog {...common} type={type} before={field} />
      ) : (
        <RemoveFieldDialog {...common} type={type} field={field} />
      );
    }
  }
}

/** Options that serve several fields. */
function Lists({ view, onOpen }: { view: ModelView; onOpen: (open: Open) => void }) {
  const items = [
    ...view.lists.map(({ key, name, options }) => ({
      key: `list ${key}`,
      label: `${name} (${options.length})`,
    })),
    ...(view.lists.length > 0 ? [{ type: 'divider' as const }] : []),
    { key: 'add', label: 'Add an option list …' },
  ];
  return (
    <Dropdown
      trigger={['click']}
      menu={{
        items,
        onClick: ({ key }) =>
          onOpen(key === 'add' ? { kind: 'addList' } : { kind: 'changeList', list: key.slice(5) }),
      }}
    >
      <Button>Option lists</Button>
    </Dropdown>
  );
}

function Exports({ view: { types, version } }: { view: ModelView }) {
  const map = useMap(types, version, WHOLE_MAP);
  const router = useRouter();
  const save = (name: string, kind: string, text: string) => {
    const url = URL.createObjectURL(new Blob([text], { type: kind }));
    const link = Object.assign(document.createElement('a'), { href: url, download: name });
    link.click();
    URL.revokeObjectURL(url);
  };
  return (
    <Dropdown
      trigger={['click']}
      menu={{
        items: [
          { key: 'svg', label: 'The map as SVG', disabled: !map.data },
          { key: 'mermaid', label: 'The model as Mermaid text' },
          { key: 'dictionary', label: 'Dictionary of types, fields and rules' },
          { key: 'bundle', label: 'Model, rules and lists as a bundle' },
          { type: 'divider' },
          { key: 'compare', label: 'Compare with another workspace or a bundle …' },
        ],
        onClick: ({ key }) =>
          key === 'compare' || key === 'dictionary'
            ? router.push(key === 'compare' ? '/compare' : '/model/dictionary')
            : key === 'bundle'
              ? download(apiPath('/bundle'))
              : key === 'svg'
                ? map.data && save('model.svg', 'image/svg+xml', mapSvg(map.data))
                : save('model.mmd', 'text/plain', mapMermaid(types)),
      }}
    >
      <Button>Export</Button>
    </Dropdown>
  );
}

interface TypeListProps {
  readonly model: Model;
  readonly types: readonly RecordType[];
  readonly rules: readonly RuleOnModel[];
  readonly selected: string | null;
  readonly onSelect: (type: string) => void;
}

/** The same as the map, in words. */
function TypeList({ model, types, rules, selected, onSelect }: TypeListProps) {
  return (
    <table className={modelStyle.typeLines}>
      <thead>
        <tr>
          <th scope="col">Type</th>
          <th scope="col">Hangs under</th>
          <th scope="col">Beneath it</th>
          <th scope="col">Fields</th>
          <th scope="col">Rules on it</th>
        </tr>
      </thead>
      <tbody>
        {types.map((type) => (
          <tr key={type.key} aria-selected={type.key === selected}>
            <td>
              <button type="button" className="plain part" onClick={() => onSelect(type.key)}>
                {type.name}
              </button>
              {type.bridge ? <div className="flags">bridge</div> : null}
            </td>
            <td>
              {model
                .linksFrom(type.key)
                .map(({ field, parent }) => `${field.name} (${typeIn(model, parent).name})`)
                .join(', ') || '–'}
            </td>
            <td>
              {model
                .linksTo(type.key)
                .map(({ field }) => field.otherEnd)
                .join(', ') || '–'}
            </td>
            <td>{type.fields.length}</td>
            <td>{rules.filter(({ compiled }) => compiled.writes.type === type.key).length}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

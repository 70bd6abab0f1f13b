'use client';

import { clsx } from 'clsx';
import { typeIn } from '@/core/model';
import type { WireRecord } from '@/core/verify';
import { Fragment, useEffect, useMemo, useState } from 'react';
import { Cell, useTitle, Children } from './tree-row';
import { type FamilyScope, keepersOf, Latest, Scope, type TreeScope, useScope } from './tree-scope';
import { useDropPlace, Dragging } from './tree-drag';
import familyStyle from './family.module.css';
import style from './family-tree.module.css';

/** A family as a tree: the root with its fields, beneath it its children in rows that open in turn; then what hangs under none of it. */
export function FamilyTree({ scope: given }: { scope: FamilyScope }) {
  const [opened] = useState(() => new Map<string, boolean>());
  const [latest] = useState(() => new Latest(given));
  useEffect(() => latest.put(given));
  const { model, family, now, inSight } = given;
  const keepers = useMemo(() => keepersOf(model, given.rules), [model, given.rules]);
  const top = now.find(family.root.id);
  const beside = now.loose.filter(({ id }) => id !== family.root.id && (!inSight || inSight.has(id)));
  const roots = [...(top ? [top] : []), ...beside];
  const scope: TreeScope = { ...given, opened, keepers, latest };
  return (
    <Scope value={scope}>
      {roots[0]?.id === family.root.id ? null : (
        <div className="nothing">
          <strong>The record at the top is deleted</strong>
          Undo the step to bring it back.
        </div>
      )}
      <Dragging scope={scope}>
        {roots.map((root) => (
          <Fragment key={root.id}>
            <Root record={root} />
            {model.linksTo(root.type).map((link) => (
              <Children key={`${link.type}.${link.link}`} parent={root} link={link} depth={0} isOpen />
            ))}
          </Fragment>
        ))}
      </Dragging>
    </Scope>
  );
}

function Root({ record }: { record: WireRecord }) {
  const { model, columns } = useScope();
  const title = useTitle(record);
  const [setPlace, fits] = useDropPlace(record);
  return (
    <section ref={setPlace} className={clsx(style.treeRoot, fits && familyStyle.dropHere)} aria-label={title}>
      <h2>
        {title} <span className="quiet">{typeIn(model, record.type).name}</span>
      </h2>
      <dl>
        {columns(record.type, null).map((field) => (
          <div key={field.key}>
            <dt>{field.name}</dt>
            <dd>
              <Cell record={record} field={field} />
            </dd>
          </div>
        ))}
      </dl>
    </section>
  );
}

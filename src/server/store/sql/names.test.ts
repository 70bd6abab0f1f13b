import { cases } from '@/core/testing/cases';
import fc from 'fast-check';
import '@/core/testing/seed';
import { type Field, type ModelChange, type RecordType, readModel } from '@/core/model';
import { RESERVED } from '@/core/model/check-names';
import { applyModelChanges, rehearseModel } from '@/server/actions/model/change-model';
import { editList, rehearseListEdit } from '@/server/actions/records/edit-list';
import { importRecords } from '@/server/actions/imports/import-records';
import { addWorkspace, removeWorkspace } from '@/server/actions/workspaces/make-workspace';
import { saveEdits } from '@/server/actions/records/save-edits';
import { createRule } from '@/server/actions/rules/write-rules';
import { takeLiveTogether } from '@/server/actions/rules/change-state';
import { disconnect } from '@/server/database/connection';
import { rollUp } from '@/core/testing/galleries';
import { driftIn } from '@/server/testing/drift';
import { TESTER, testWorkspace } from '@/server/testing/workspace';
import { loadWorkspace } from '@/server/store/session/workspace';

afterAll(disconnect);

/** Names of Oikon's own tables, indexes and columns, of PostgreSQL's own, of temporary tables, and long ones that differ late. */
const NASTY = [
  ...[
    'run',
    'rule',
    'ledger',
    'state',
    'problem',
    'request',
    'message',
    'proposal',
    'proof',
    'agreement',
    'later',
  ],
  ...[
    'made',
    'serial',
    'migration',
    'modelVersion',
    'ruleVersion',
    'savedList',
    'sampleFamily',
    'queuedSave',
  ],
  ...[
    'xmin',
    'xmax',
    'cmin',
    'cmax',
    'ctid',
    'tableoid',
    'oid',
    'user',
    'select',
    'order',
    'table',
    'group',
    'end',
  ],
  ...[
    'pgClass',
    'incoming',
    'importRows',
    'listed',
    'undoGoing',
    'w0',
    'x',
    't',
    'child',
    'byTitle',
    'titles',
  ],
  ...[
    'making',
    'bin',
    'pkey',
    'recordPkey',
    'byMaking',
    'inBin',
    'runPkey',
    'ledgerByRun',
    'aRun',
    'value',
    'one',
  ],
  ...['abcdefghijklmnopqrstuvwxyzabcd', 'abcdefghijklmnopqrstuvwxyzabce', 'aBCDEFGHIJKLMNOPQRSTUVWXYZABCD'],
  ...[
    'aBCDEFGHIJKLMNOPQRSTUVWXYZABCE',
    'changes',
    'sources',
    'cause',
    'record',
    'field',
    'wave',
    'event',
    'source',
  ],
];
const anyKey = fc.oneof(
  { weight: 3, arbitrary: fc.constantFrom(...NASTY) },
  { weight: 1, arbitrary: fc.stringMatching(/^[a-z][a-zA-Z0-9]{0,29}$/) },
);
const keysOf = (most: number) =>
  fc.uniqueArray(
    anyKey.filter((key) => !RESERVED.has(key)),
    { minLength: 4, maxLength: most },
  );

interface Names {
  readonly types: readonly [string, string];
  /** Of the parent: title, total; of the child: title, link, amount, and a unique and a serial field. */
  readonly parent: readonly string[];
  readonly child: readonly string[];
}

const anyNames: fc.Arbitrary<Names> = fc.record({
  types: fc.uniqueArray(anyKey, { minLength: 2, maxLength: 2 }) as fc.Arbitrary<[string, string]>,
  parent: keysOf(4),
  child: fc.uniqueArray(
    anyKey.filter((key) => !RESERVED.has(key)),
    { minLength: 6, maxLength: 6 },
  ),
});

const named = (key: string, type: Field['type'], more: Partial<Field> = {}): Field => ({
  ...{ key, name: key.replace(/[A-Z]/g, (letter) => `-${letter}`), type },
  ...more,
});
const amount = { kind: 'number', scale: 2 } as const;

function typesOf({ types: [parent, child], parent: p, child: c }: Names): [RecordType, RecordType] {
  return [
    {
      ...{ key: parent, name: 'Parent', plural: 'Parents', title: p[0]! },
      fields: [
        named(p[0]!, { kind: 'text' }, { required: true }),
        named(p[1]!, amount),
        named(p[2]!, amount),
      ],
    },
    {
      ...{ key: child, name: 'Child', plural: 'Children', title: c[0]! },
      fields: [
        named(c[0]!, { kind: 'text' }, { required: true }),
        named(c[1]!, { kind: 'link', target: parent }, { otherEnd: 'Children' }),
        named(c[2]!, amount),
        named(c[3]!, { kind: 'text' }, { unique: true }),
        named(c[4]!, { kind: 'serial', prefix: '', digits: 3 }),
      ],
    },
  ];
}

test('whatever types and fields are called, they can be added, kept by rules, imported, edited as a list, copied and changed', async () => {
  await fc.assert(
    fc.asyncProperty(anyNames, async (names) => {
      const workspace = await testWorkspace({
        model: readModel({ types: [] }, '2026-03-14'),
        rows: [],
        rules: [],
      });
      const by = { workspace: workspace.key, person: TESTER.id };
      try {
        const types = typesOf(names);
        const [parent, child] = names.types;
        const [p, c] = [names.parent, names.child];
        const added = types.map((type): ModelChange => ({ kind: 'addType', type }));
        await rehearseModel(workspace.key, added);
        const { modelVersion } = await workspace.load();
        await applyModelChanges({ ...by, changes: added, version: modelVersion });
        const route = [{ direction: 'down', type: child, link: c[1]! }] as const;
        const field = (key: string) => ({ kind: 'field', route: [], field: key }) as const;
        const ids = [];
        for (const definition of [
          rollUp({ type: parent, target: p[1]!, aggregate: 'sum', value: field(c[2]!), route }),
          rollUp({ type: parent, target: p[2]!, aggregate: 'maximum', value: field(c[2]!), route }),
        ])
          ids.push(await createRule({ ...by, definition }));
        await takeLiveTogether({ ...by, ids });
        const above = await saveEdits({
          ...by,
          edits: [{ kind: 'create', type: parent, values: { [p[0]!]: 'P' } }],
        });
        const under = { [c[1]!]: above.ids[0]! };
        await saveEdits({
          ...by,
          edits: [
            {
              kind: 'create',
              type: child,
              values: { [c[0]!]: 'A', [c[2]!]: '1.50', [c[3]!]: 'a', ...under },
            },
          ],
        });
        await importRecords({
          ...{ ...by, type: child },
          records: [
            { [c[0]!]: 'B', [c[2]!]: '2', [c[3]!]: 'b', ...under },
            { [c[0]!]: 'C', [c[3]!]: 'c', ...under },
          ],
        });
        const list = { ...by, type: child, values: { [c[2]!]: '3' } };
        expect((await rehearseListEdit(list)).changed).toBe(3);
        await editList({ ...list, expected: 3 });
        const row = (await workspace.rows()).find(({ type }) => type === parent)!;
        expect([String(row.values[p[1]!]), String(row.values[p[2]!])]).toEqual(['9', '3']);
        expect(await driftIn(workspace)).toEqual([]);
        const copy = await addWorkspace(
          { name: `${workspace.key} copy`, copyOf: workspace.key, withRecords: true },
          TESTER.id,
        );
        try {
          expect(await driftIn({ load: () => loadWorkspace(copy.key) })).toEqual([]);
        } finally {
          await removeWorkspace(copy.key);
        }
        const more: ModelChange = { kind: 'addField', type: child, field: named(c[5]!, amount) };
        await applyModelChanges({ ...by, changes: [more], version: (await workspace.load()).modelVersion });
      } finally {
        await workspace.remove();
      }
    }),
    { numRuns: cases(10) },
  );
});

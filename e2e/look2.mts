import { manyRules, manyTypes } from '../src/core/testing/many';
const T = 180;
const base = 'http://127.0.0.1:4471/api/v1';
const { people } = await (await fetch(base + '/workspaces/wrenfield/bundle')).json();
const h = { 'Oikon-Person': people[0].id, 'content-type': 'application/json' };
const bundle = { format: 'oikon.bundle', version: 2, workspace: { name: 'Many rules 2', timeZone: 'Europe/London', settledDay: '2026-03-14' },
  people, optionLists: [], selections: [], lists: [], families: [], proofs: [], requests: [], types: manyTypes(T).types,
  rules: manyRules(T).map((definition, at) => ({ id: `00000000-0000-7000-8000-${String(at).padStart(12, '0')}`, isNamed: false, note: '', state: 'live', definition, name: `Rule ${at}` })) };
let r = await fetch(base + '/bundles', { method: 'POST', headers: h, body: JSON.stringify(bundle) });
console.log(r.status); const { key } = await r.json(); console.log(key);
const rules = (await (await fetch(`${base}/workspaces/${key}/rules`)).json()).rules;
const ids = rules.filter((x: any) => x.definition.kind === 'formula').map((x: any) => x.id);
for (const [path, body] of [['rule-tags', { rules: ids, add: ['doubles'], remove: [] }], ['paused-rules', { rules: ids }], ['live-rules/preview', { rules: ids }]] as const) {
  const t = Date.now();
  r = await fetch(`${base}/workspaces/${key}/${path}`, { method: 'POST', headers: h, body: JSON.stringify(body) });
  console.log(path, r.status, Date.now() - t, (await r.text()).slice(0, 300));
}
for (const path of ['rules', 'types', 'proofs', 'proposals']) { const t = Date.now(); await (await fetch(`${base}/workspaces/${key}/${path}`)).text(); console.log(path, Date.now() - t); }

import { dictionaryOf, type Dictionary } from '@/core/verify';
import ExcelJS from 'exceljs';
import { allRules } from './rules';
import { inSnapshot } from '@/server/store/session/transactions';
import { currentWorkspace, type LoadedWorkspace } from '@/server/store/session/workspace';

/** The workspace's types, fields, selections and rules that aren't retired, in words. */
export const readDictionary = (known: LoadedWorkspace): Promise<Dictionary> =>
  inSnapshot(async (transaction) => {
    const workspace = await currentWorkspace(transaction, known);
    const rules = await allRules(transaction, workspace);
    return dictionaryOf(workspace.model, rules, (id) => workspace.people.get(id));
  });

interface Column {
  readonly header: string;
  readonly width: number;
}

const text = (header: string, width: number): Column => ({ header, width });

/** The same as a workbook: a sheet of fields, one of selections and one of rules. Every cell is text, which a spreadsheet never takes for a formula. */
/** Kinds of rule as people call them. */
const KINDS: Readonly<Record<Dictionary['rules'][number]['kind'], string>> = {
  rollUp: 'roll-up',
  formula: 'formula',
  cascade: 'cascade',
  create: 'create rule',
  link: 'link rule',
};

export async function dictionaryBook({ types, rules }: Dictionary): Promise<Buffer> {
  const workbook = new ExcelJS.Workbook();
  const add = (name: string, columns: readonly Column[], rows: readonly (readonly string[])[]) => {
    const sheet = workbook.addWorksheet(name, { views: [{ state: 'frozen', ySplit: 1 }] });
    sheet.columns = columns.map((column) => ({ ...column, style: { numFmt: '@' } }));
    sheet.getRow(1).font = { bold: true };
    sheet.addRows(rows.map((row) => [...row]));
  };
  const yes = (is: boolean) => (is ? 'yes' : '');
  add(
    'Fields',
    [
      ...[text('Type', 24), text('Field', 28), text('Kind', 30), text('Required', 10), text('Unique', 10)],
      ...[text('Options', 40), text('Written by', 36), text('Help', 60)],
    ],
    types.flatMap(({ name: type, fields }) =>
      fields.map(({ name, kind, isRequired, isUnique, options, writtenBy, help }) => [
        ...[type, name, kind, yes(isRequired), yes(isUnique)],
        ...[options.join(', '), writtenBy.join(', '), help],
      ]),
    ),
  );
  add(
    'Selections',
    [text('Type', 24), text('Selection', 28), text('Says', 80)],
    types.flatMap(({ name: type, selections }) => selections.map(({ name, says }) => [type, name, says])),
  );
  add(
    'Rules',
    [
      ...[text('Type', 24), text('Rule', 36), text('Kind', 14), text('State', 12)],
      ...[text('Sentence', 100), text('Note', 60), text('Tags', 30)],
    ],
    rules.map(({ type, name, kind, state, sentence, note, tags }) => [
      ...[type, name, KINDS[kind], state, sentence, note, tags.join(', ')],
    ]),
  );
  return Buffer.from(await workbook.xlsx.writeBuffer());
}

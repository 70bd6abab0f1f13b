import { galleries, rowOf, uuid } from '@/core/testing/galleries';
import { inspections, LINE } from '@/core/testing/inspections';
import { numbered } from '@/core/testing/rule-desk';
import { shiftDay } from '@/core/values';
import { QueryTypes } from 'sequelize';
import { decideMessage } from '@/server/actions/records/decide-messages';
import { saveEdits } from '@/server/actions/records/save-edits';
import { database, disconnect } from '@/server/database/connection';
import { dayIn } from '@/server/day';
import type { Message } from '@/server/messages/message-service';
import { notices } from '@/server/queries/today/notices';
import { edit } from '@/server/testing/edits';
import { refusal } from '@/server/testing/refusal';
import { TESTER, type TestWorkspace, testWorkspace } from '@/server/testing/workspace';
import { pauseAfter, sendMessages } from './send-messages';
import { setDayBack, settleDay, settleDays } from './settle-days';

let workspace: TestWorkspace;
afterEach(() => workspace.remove());
afterAll(disconnect);

const by = () => ({ workspace: workspace.key, person: TESTER.id });
const told = async () => notices(await workspace.load());
const kinds = async () => (await told()).map(({ kind }) => kind);
const settledDay = async () => (await workspace.load()).settledDay;
const today = () => dayIn('Europe/London', new Date());
const schema = async () => `"${(await workspace.load()).schema}"`;

describe('a clock that is ahead', () => {
  beforeEach(async () => {
    const row = rowOf(galleries(), 'loan', uuid('1'), { title: 'Robes' });
    workspace = await testWorkspace({ model: galleries(), rows: [row], rules: [] });
  });

  test('settles no day that is more than two ahead of the database’s, and says so until it is right', async () => {
    await settleDays(new Date(), [workspace.key]);
    expect(await settledDay()).toBe(today());
    await settleDays(new Date('2100-01-01T12:00:00Z'), [workspace.key]);
    expect(await settledDay()).toBe(today());
    expect(await told()).toMatchObject([
      {
        kind: 'clock',
        message: expect.stringMatching(/^The server’s clock shows 2100-01-01, and the database’s 20/),
      },
    ]);
    await settleDays(new Date(), [workspace.key]);
    expect(await kinds()).toEqual([]);
  });

  test('a day that was settled by it is told, and set back by a press; nothing else can be', async () => {
    await settleDays(new Date(), [workspace.key]);
    expect(await refusal(setDayBack(by()))).toMatchObject({ status: 409, code: 'day.ahead' });
    const ahead = shiftDay(today(), 400)!;
    await settleDay(workspace.key, ahead);
    expect(await told()).toEqual([{ kind: 'dayAhead', settledDay: ahead, today: today() }]);
    await setDayBack(by());
    expect(await settledDay()).toBe(today());
    expect(await kinds()).toEqual([]);
  });
});

describe('a message that can’t be sent', () => {
  beforeEach(async () => {
    const model = inspections();
    const proposing = {
      ...LINE,
      making: 'proposal',
      tells: TESTER.id,
    } as const;
    workspace = await testWorkspace({
      ...{ model, rules: numbered([proposing]) },
      rows: [rowOf(model, 'artefact', uuid('1'), { title: 'Vase', sort: 'tool' })],
    });
    await saveEdits({ ...by(), edits: [edit('artefact', uuid('1'), { sort: 'painting' })] });
  });

  const away = { name: 'away', send: () => Promise.reject(new Error('Nobody answers.')) };
  /** As if so many hours had gone by. */
  const later = async (hours: number) =>
    void (await database().query(
      `UPDATE ${await schema()}._message SET next_at = next_at - make_interval(hours => ${hours}), first_at = first_at - make_interval(hours => ${hours})`,
    ));
  const stored = async () => {
    const [row] = await database().query<{ tries: number; failed: boolean; sent: boolean }>(
      `SELECT tries, failed_at IS NOT NULL AS failed, sent_at IS NOT NULL AS sent FROM ${await schema()}._message`,
      { type: QueryTypes.SELECT },
    );
    return row;
  };

  test('is tried again for three days, less and less often, then given up, told, and sent again by a press', async () => {
    await sendMessages(workspace.key, away);
    // Not at once again.
    await sendMessages(workspace.key, away);
    expect(await stored()).toEqual({ tries: 1, failed: false, sent: false });
    for (let hours = 0; hours < 66; hours += 6) {
      await later(6);
      await sendMessages(workspace.key, away);
    }
    expect(await stored()).toMatchObject({ tries: 12, failed: false });
    expect(await kinds()).toEqual([]);
    await later(8);
    await sendMessages(workspace.key, away);
    expect(await stored()).toMatchObject({ failed: true });
    const [notice] = await told();
    expect(notice).toMatchObject({ kind: 'message', person: TESTER.name, failure: 'Nobody answers.' });
    const { id } = notice as { id: string };
    await later(100);
    const taken: Message[] = [];
    const here = { name: 'here', send: (message: Message) => Promise.resolve(void taken.push(message)) };
    expect(await sendMessages(workspace.key, here)).toBe(0);
    await decideMessage(by(), id, 'again');
    expect(await sendMessages(workspace.key, here)).toBe(1);
    expect(taken).toHaveLength(1);
    expect(await kinds()).toEqual([]);
    expect(await refusal(decideMessage(by(), id, 'drop'))).toMatchObject({ code: 'message.unknown' });
  });

  test('pauses grow from a minute to six hours', () => {
    expect([1, 2, 3, 4, 9, 10, 30].map(pauseAfter)).toEqual([60, 120, 240, 480, 15_360, 21_600, 21_600]);
  });

  test('is sent outside of any transaction: a slow service holds no save up', async () => {
    let arrived: () => void = () => undefined;
    let release: () => void = () => undefined;
    const isThere = new Promise<void>((resolve) => (arrived = resolve));
    const slow = {
      name: 'slow',
      send: () => {
        arrived();
        return new Promise<void>((resolve) => (release = resolve));
      },
    };
    const sending = sendMessages(workspace.key, slow);
    await isThere;
    // Nobody holds a lock on a table of the workspace, not even one of reading.
    const open = await database().query(
      `SELECT 1 FROM pg_locks JOIN pg_class ON pg_class.oid = relation JOIN pg_namespace ON pg_namespace.oid = relnamespace
       WHERE nspname = $1 AND pid <> pg_backend_pid()`,
      { type: QueryTypes.SELECT, bind: [workspace.key] },
    );
    expect(open).toEqual([]);
    // Another process finds nothing to take on meanwhile.
    expect(await sendMessages(workspace.key, away)).toBe(0);
    release();
    expect(await sending).toBe(1);
    expect(await stored()).toEqual({ tries: 1, failed: false, sent: true });
  });
});

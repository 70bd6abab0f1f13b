import type { RunOutcome } from '@/core/engine';
import { testKinds } from '@/core/testing/kinds-contract';
import type { StoreHarness } from '@/core/testing/store-contract';
import { disconnect } from '@/server/database/connection';
import { setBounds } from '@/server/store/session/bounds';
import { saveIn } from '@/server/testing/random';
import { testWorkspace } from '@/server/testing/workspace';

beforeAll(() => setBounds({ mostByRow: 0, mostKeptByRow: 0, page: 2 }));
afterAll(async () => {
  setBounds();
  await disconnect();
});

/** Saves of which whatever follows goes the way of many: whole sets, and pages of two. */
const overMany: StoreHarness = {
  tellsNumbers: true,
  open: async (given) => {
    const workspace = await testWorkspace(given);
    return {
      save: async (edits): Promise<RunOutcome> => saveIn(workspace, edits),
      rows: workspace.rows,
      close: workspace.remove,
    };
  },
};

testKinds('PostgreSQL, over many', overMany);

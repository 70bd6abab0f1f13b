import { expose } from 'comlink';
import { sheetsIn } from './workbook';

const api = { sheetsIn };

export type WorkbookApi = typeof api;

expose(api);

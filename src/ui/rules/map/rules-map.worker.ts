import { expose } from 'comlink';
import { layOutRules } from './rules-map-layout';

const api = { layOutRules };

export type RulesMapApi = typeof api;

expose(api);

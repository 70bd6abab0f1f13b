import { expose } from 'comlink';
import { layOut } from './map-layout';

const api = { layOut };

export type MapLayoutApi = typeof api;

expose(api);

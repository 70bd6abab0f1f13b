import { expose } from 'comlink';
import { Workshop } from './rule-worker';

expose(new Workshop());

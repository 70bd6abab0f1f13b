import { expose } from 'comlink';
import { RuleWorker } from './rule-worker';

expose(new RuleWorker());

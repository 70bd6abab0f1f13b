import { formOfKey, PLAIN_FORM, writeBy } from '@/core/values';
import { expose } from 'comlink';
import { RuleWorker } from './rule-worker';

const form = formOfKey(self.name) ?? PLAIN_FORM;
writeBy(() => form);

expose(new RuleWorker());

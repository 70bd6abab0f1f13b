import { expose } from 'comlink';
import { Workshop } from './workshop';

expose(new Workshop());

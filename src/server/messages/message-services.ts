import { simulatedOutbox } from '@/standins/simulated-outbox';
import { mail } from './mail';
import type { MessageService } from './message-service';
import { serviceNamed } from '@/server/service-named';

const SERVICES: readonly MessageService[] = [simulatedOutbox, mail];

/** The service that the installation names in OIKON_MESSAGE_SERVICE; `null` where it names none. Refuses one that isn't there. */
export const messageService = (): MessageService | null => serviceNamed('OIKON_MESSAGE_SERVICE', SERVICES);

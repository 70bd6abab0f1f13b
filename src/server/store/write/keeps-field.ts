import type { Plan } from '@/core/plan';

/** Whether a rule keeps or claims a field, so that it may be in error there: by type and key. */
export const keepsField = (plan: Plan) => (type: string, field: string) => plan.mayFail({ type, field });

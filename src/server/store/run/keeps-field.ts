import type { Plan } from '@/core/plan';

export const keepsField = (plan: Plan) => (type: string, field: string) => plan.mayFail({ type, field });

/** The cookie by which whoever administers a workspace looks at it as one of its roles does: `workspace:role`. It only ever shows less. */
export const SEE_AS_COOKIE = 'oikon-see-as';

/** Called once as the server starts. */
export async function register(): Promise<void> {
  if (process.env.NEXT_RUNTIME !== 'nodejs') return;
  const { startSettling } = await import('./server/jobs/settle-days');
  const { startSweeping } = await import('./server/jobs/sweep-ended');
  const { startPaces } = await import('./server/jobs/slower-paces');
  startSettling();
  startPaces();
  startSweeping();
}

import { chromium } from '@playwright/test';
const b = await chromium.launch({ executablePath: '/usr/bin/chromium-headless-shell', args: ['--no-sandbox'] });
for (const path of process.argv.slice(2)) {
const p = await (await b.newContext({ viewport: { width: 1280, height: 800 }, baseURL: 'http://127.0.0.1:4471' })).newPage();
const kinds: Record<string, number> = {};
p.on('request', (r) => { const u = r.url(); const k = u.includes('_rsc') ? 'rsc' : u.includes('/api/') ? 'api' : u.endsWith('.js') ? 'js' : u.endsWith('.css') ? 'css' : u.includes('woff') ? 'font' : 'other'; kinds[k] = (kinds[k] ?? 0) + 1; if (k === 'api' || k=== 'other') console.log(u); });
await p.goto('/w/wrenfield' + path); await p.waitForTimeout(2500); console.log(path, JSON.stringify(kinds)); }
await b.close();

import { type ChildProcess, spawn, spawnSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { request as plain } from 'node:http';
import { request, type RequestOptions } from 'node:https';
import { connect } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, test } from '@playwright/test';
import {
  account,
  browserOf,
  freePort,
  type Installation,
  makeChoir,
  startedInstallation,
} from './installation';

/** Behind nginx with TLS, by the configuration in docs/nginx.conf: only its name, ports and certificate are others here. */
let own: Installation;
let nginx: ChildProcess;
let tls: number;
let clear: number;

const accepts = (port: number): Promise<boolean> =>
  new Promise((resolve) => {
    const socket = connect(port, '127.0.0.1');
    socket.once('connect', () => resolve((socket.destroy(), true))).once('error', () => resolve(false));
  });

test.beforeAll(async () => {
  const inner = await freePort();
  [tls, clear] = [await freePort(), await freePort()];
  const folder = mkdtempSync(join(tmpdir(), 'oikon-nginx-'));
  for (const name of ['logs', 'temp']) mkdirSync(join(folder, name));
  const made = spawnSync(
    'openssl',
    [
      ...[
        'req',
        '-x509',
        '-newkey',
        'ec',
        '-pkeyopt',
        'ec_paramgen_curve:prime256v1',
        '-nodes',
        '-days',
        '2',
      ],
      ...['-keyout', join(folder, 'key.pem'), '-out', join(folder, 'certificate.pem')],
      ...['-subj', '/CN=localhost', '-addext', 'subjectAltName=DNS:localhost'],
    ],
    { encoding: 'utf8' },
  );
  expect(made.status).toBe(0);
  const shipped = readFileSync('docs/nginx.conf', 'utf8')
    .replaceAll('https://oikon.example.org', `https://localhost:${tls}`)
    .replaceAll('oikon.example.org', 'localhost')
    .replaceAll('/etc/ssl/oikon', folder)
    .replace('127.0.0.1:4410', `127.0.0.1:${inner}`)
    .replaceAll(/^ {2}listen \[::\].*\n/gm, '')
    .replace('listen 80;', `listen ${clear};`)
    .replace('listen 443 ', `listen ${tls} `);
  const temporary = ['client_body', 'proxy', 'fastcgi', 'uwsgi', 'scgi']
    .map((name) => `${name}_temp_path ${folder}/temp/${name};`)
    .join('\n');
  writeFileSync(
    join(folder, 'nginx.conf'),
    `pid ${folder}/pid;\nerror_log ${folder}/logs/error.log;\nevents {}\nhttp {\naccess_log off;\n${temporary}\n${shipped}\n}\n`,
  );
  own = await startedInstallation(`https://localhost:${tls}`, `127.0.0.1:${inner}`, {
    OIKON_TRUSTED_PROXIES: '127.0.0.1',
  });
  nginx = spawn(
    'nginx',
    ['-p', folder, '-e', `${folder}/logs/error.log`, '-c', `${folder}/nginx.conf`, '-g', 'daemon off;'],
    {
      stdio: 'inherit',
    },
  );
  await expect.poll(() => accepts(tls)).toBe(true);
});

test.afterAll(async () => {
  const ended = new Promise((resolve) => nginx.once('exit', resolve));
  nginx.kill();
  await ended;
  await own.stop();
});

interface Answered {
  readonly status: number;
  readonly headers: NodeJS.Dict<string | string[]>;
  readonly text: string;
  /** In how many pieces it came. */
  readonly pieces: number;
}

/** Asks through nginx, from an address of this machine that isn't the proxy's own. */
function asked(path: string, options: RequestOptions = {}, body?: Buffer | string): Promise<Answered> {
  return new Promise((resolve, reject) => {
    const asking = request(
      {
        ...{ hostname: '127.0.0.1', port: tls, path, rejectUnauthorized: false, localAddress: '127.0.0.2' },
        // Each on a connection of its own: one that was refused is closed.
        agent: false,
        ...{ servername: 'localhost', ...options },
        headers: { Host: `localhost:${tls}`, ...options.headers },
      },
      (answer) => {
        let [text, pieces] = ['', 0];
        answer.on('data', (piece: Buffer) => {
          text += piece.toString();
          pieces += 1;
        });
        answer.on('end', () =>
          resolve({ status: answer.statusCode ?? 0, headers: answer.headers, text, pieces }),
        );
      },
    );
    asking.once('error', reject);
    asking.end(body);
  });
}

test('behind nginx with TLS: headers, the client’s address, bodies and answers that come as they are made', async ({
  browser,
}) => {
  const { context, page, refused } = await browserOf(browser, own);
  await makeChoir(page, own);
  await page.goto('/w/choir/today');
  await expect(page.getByRole('heading', { name: 'Today' })).toBeVisible();
  const cookie = (await context.cookies()).find(({ name }) => name === '__Host-oikon');
  expect(cookie).toMatchObject({ secure: true, httpOnly: true, sameSite: 'Lax', path: '/' });
  const headers = { Cookie: `__Host-oikon=${cookie!.value}`, 'User-Agent': 'Test/1' };

  await test.step('headers stand as Oikon writes them, each once', async () => {
    const answer = await asked('/w/choir/rules', { headers });
    expect(answer.status).toBe(200);
    expect(answer.headers).toMatchObject({
      'strict-transport-security': expect.stringMatching(/^max-age=\d+/),
      'content-security-policy': expect.stringContaining("frame-ancestors 'none'"),
      'x-content-type-options': 'nosniff',
      server: 'nginx',
    });
    const redirected = await new Promise<[number, string | undefined]>((resolve) =>
      plain({ hostname: '127.0.0.1', port: clear, path: '/w/choir/rules', headers: { Host: 'localhost' } })
        .on('response', (one) => resolve([one.statusCode ?? 0, one.headers.location]))
        .end(),
    );
    expect(redirected).toEqual([308, `https://localhost:${tls}/w/choir/rules`]);
    expect((await asked('/', { headers: { Host: 'evil.example' } })).status).toBe(400);
  });

  await test.step('who asks is who nginx sees, whatever they say of themselves', async () => {
    const entered = await asked(
      '/api/v1/session',
      {
        method: 'POST',
        headers: {
          'Content-Type': 'application/json',
          'X-Forwarded-For': '203.0.113.9',
          'User-Agent': 'Test/1',
        },
      },
      JSON.stringify({ email: 'ada@choir.example', password: 'nine geese over the weir' }),
    );
    expect(entered.status).toBe(201);
    await account(page, 'Where you are signed in …');
    await expect(page.getByRole('dialog').getByText('from 127.0.0.2')).toBeVisible();
    await expect(page.getByRole('dialog').getByText('203.0.113.9')).toHaveCount(0);
  });

  await test.step('a body that is too large is told so by Oikon, in words', async () => {
    const large = JSON.stringify({ edits: [], note: 'x'.repeat(5_000_000) });
    const answer = await asked(
      '/api/v1/workspaces/choir/changes',
      { method: 'POST', headers: { ...headers, 'Content-Type': 'application/json' } },
      large,
    );
    expect([answer.status, (JSON.parse(answer.text) as { code: string }).code]).toEqual([413, 'body.size']);
  });

  await test.step('a large file goes through, and long work tells its steps while it is under way', async () => {
    const song = {
      ...{ key: 'song', name: 'Song', plural: 'Songs', title: 'title' },
      fields: [{ key: 'title', name: 'Title', type: { kind: 'text' }, required: true }],
    };
    const types = await asked('/api/v1/workspaces/choir/types', { headers });
    const { version } = JSON.parse(types.text) as { version: number };
    const changed = await asked(
      '/api/v1/workspaces/choir/model-changes',
      { method: 'POST', headers: { ...headers, 'Content-Type': 'application/json' } },
      JSON.stringify({ changes: [{ kind: 'addType', type: song }], version }),
    );
    expect(changed.status, changed.text).toBe(200);
    const plan = { format: 'csv', columns: [{ column: 'Title', field: 'title' }] };
    const lines = Array.from({ length: 60_000 }, (_, at) => `Song ${at} ${'la '.repeat(40)}`);
    const answer = await asked(
      '/api/v1/workspaces/choir/imports/song',
      {
        method: 'POST',
        headers: { ...headers, 'Content-Type': 'application/octet-stream', Accept: 'application/x-ndjson' },
      },
      `${JSON.stringify(plan)}\nTitle\n${lines.join('\n')}\n`,
    );
    expect(answer.status, answer.text).toBe(200);
    expect(answer.text).toContain('"created":60000');
    expect(answer.text.trim().split('\n').length).toBeGreaterThan(2);
    expect(answer.pieces).toBeGreaterThan(1);
  });
  await context.close();
  expect(refused).toEqual([]);
});

import { startStandIn } from './company-sign-in';

/** `tsx src/standins/serve-company-sign-in.ts`: the stand-in for a company's sign-in, and the settings by which Oikon uses it. */
const CLIENT = 'oikon';
const SECRET = 'a secret of a stand-in';
const origin = process.env.OIKON_ORIGIN ?? 'http://127.0.0.1:4410';
const port = Number(process.argv[2] ?? 4490);

void startStandIn({ port, origin, client: CLIENT, secret: SECRET }).then(
  ({ issuer }) => {
    process.stdout.write(
      [
        'A stand-in for the company’s sign-in is there. Start Oikon with these settings:',
        `  OIKON_ORIGIN=${origin}`,
        `  OIKON_OIDC_ISSUER=${issuer}`,
        `  OIKON_OIDC_CLIENT=${CLIENT}`,
        `  OIKON_OIDC_SECRET='${SECRET}'`,
        '  OIKON_OIDC_MAKES_PEOPLE=1',
        '  OIKON_OIDC_GROUPS=groups',
        '',
      ].join('\n'),
    );
  },
  (error: unknown) => {
    console.error(error);
    process.exit(1);
  },
);

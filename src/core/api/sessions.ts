/** What the JSON API answers about who is signed in. */

import type { Form } from '@/core/values';
import type { Right } from './rights';

export interface SessionPerson {
  readonly id: string;
  readonly name: string;
  /** Whether they see to the installation itself. */
  readonly isOperator: boolean;
}

/** Who is signed in; `null` where nobody is. In the demo nobody signs in: who acts is chosen. */
export interface SessionAnswer {
  readonly isDemo: boolean;
  readonly person: SessionPerson | null;
  /** How one can sign in besides by a password. */
  readonly ways: {
    /** What people call the company's sign-in; `null`: there is none. */
    readonly provider: string | null;
    /** Whether whoever has forgotten their password is sent an address. */
    readonly mail: boolean;
  };
}

/** What somebody has of a second step after their password. */
export interface SecondFactorView {
  /** Whether the installation can keep one. */
  readonly isPossible: boolean;
  readonly isSet: boolean;
  /** How many codes are left that are good once. */
  readonly spare: number;
}

/** One of one's own passkeys. */
export interface PasskeyView {
  readonly handle: string;
  readonly name: string;
  /** Instants; `used`: last, `null` before. */
  readonly made: string;
  readonly used: string | null;
}

/** One of one's own sessions. */
export interface OwnSession {
  readonly handle: string;
  /** Instants: when it began, and when it was used last, to a minute. */
  readonly began: string;
  readonly used: string;
  /** From where in the network, and by what program as it says itself. */
  readonly address: string;
  readonly agent: string;
  /** The one by which this is asked. */
  readonly isThis: boolean;
}

/** What an address that is good once is for: the first administrator's account, or a password of somebody. */
export interface Welcome {
  readonly kind: 'administrator' | 'password';
  /** Of whose password it is; `null` for the first administrator. */
  readonly name: string | null;
  readonly email: string | null;
}

/** What is noted in the security ledger. */
export type SecurityKind =
  | 'signedIn'
  | 'signInFailed'
  | 'signInHeldBack'
  | 'signedOut'
  | 'sessionEnded'
  | 'passwordChosen'
  | 'addressMade'
  | 'administratorMade'
  | 'personAdded'
  | 'personForgotten'
  | 'rightsChanged'
  | 'roleMade'
  | 'roleChanged'
  | 'roleRemoved'
  | 'groupMade'
  | 'groupChanged'
  | 'groupRemoved'
  | 'secondFactorSet'
  | 'secondFactorRemoved'
  | 'spareCodeTaken'
  | 'passkeyMade'
  | 'passkeyRemoved'
  | 'providerLinked'
  | 'demandsChanged'
  | 'twoPeopleChanged'
  | 'approved'
  | 'exported'
  | 'rulesLive'
  | 'rulesPaused'
  | 'rulesRetired'
  | 'workspaceMade'
  | 'workspaceRemoved'
  | 'serviceMade'
  | 'tokenMade'
  | 'tokenEnded';

/** An entry of the security ledger. */
export interface SecurityEventView {
  readonly id: string;
  readonly at: string;
  readonly kind: SecurityKind;
  /** Whom it is about; `null` where that isn't known. */
  readonly person: string | null;
  /** Of the client; `null` where it was done for somebody else. */
  readonly address: string | null;
  /** Who did it, where that is somebody else. */
  readonly by: string | null;
  /** In which workspace. */
  readonly workspace: string | null;
  /** Of changed rights: the role by its name; `null` for none any more. */
  readonly access: string | null;
  /** What it is about that isn't a person, by its name: a group, a role, a token. */
  readonly about: string | null;
}

/** A program of a workspace's own, that acts as itself by its tokens. */
export interface ServiceView {
  readonly id: string;
  readonly name: string;
  /** The key of its role. */
  readonly access: string;
  readonly tokens: readonly TokenView[];
}

type Told = Readonly<Record<string, string | null>>;

/** All that Oikon itself keeps of a person, to be given to them. */
export interface PersonalData {
  readonly account: {
    readonly name: string;
    readonly email: string;
    readonly role: string;
    readonly form: Form | null;
    readonly isOperator: boolean;
  };
  readonly workspaces: readonly Told[];
  readonly groups: readonly string[];
  readonly sessions: readonly Told[];
  readonly tokens: readonly Told[];
  readonly passkeys: readonly Told[];
  readonly security: readonly Told[];
}

/** A token as it is asked for. */
export interface NewToken {
  readonly name: string;
  /** What the program may do; never more than whoever made it. */
  readonly rights: readonly Right[];
  /** Keys of workspaces. */
  readonly workspaces: readonly string[];
  /** For how many days it is good. */
  readonly days: number;
}

/** One of one's own tokens; what the program keeps was told once. */
export interface TokenView extends Omit<NewToken, 'days'> {
  readonly handle: string;
  /** Instants; `used`: last, to a minute, `null` before. */
  readonly made: string;
  readonly ends: string;
  readonly used: string | null;
}

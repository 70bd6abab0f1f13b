/** What the JSON API answers about who is signed in. */

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

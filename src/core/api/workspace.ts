import type { Form } from '@/core/values';
import type { TwoPeopleKind } from './approvals';
import type { Right, RoleView } from './rights';

/** What the JSON API answers about workspaces, their people and what happened to the installation. */

/** Something that went wrong by itself and wants a person. */
export type NoticeView =
  /** A message that was tried for days; it can be sent again or dropped. */
  | {
      readonly kind: 'message';
      readonly id: string;
      readonly person: string;
      readonly subject: string;
      readonly failure: string;
      readonly at: string;
    }
  /** The settled day lies ahead of the calendar; it can be set back. */
  | { readonly kind: 'dayAhead'; readonly settledDay: string; readonly today: string }
  /** A day that the server's clock shows isn't settled. */
  | { readonly kind: 'clock'; readonly message: string };

/** Something that was done to the installation itself. */
export interface InstallationEventView {
  readonly id: string;
  /** An instant, in UTC. */
  readonly at: string;
  /** Who did it; `null`: Oikon itself. */
  readonly person: string | null;
  readonly kind: 'made' | 'copied' | 'imported' | 'renamed' | 'removed' | 'form';
  /** The workspace’s key, and its name as it was then. */
  readonly workspace: string;
  readonly name: string;
  /** Of a copy the source, of a new name the one before, of a bundle who came into the installation with it. */
  readonly data: {
    readonly copyOf?: string;
    /** Whether the copy has the source's records. */
    readonly withRecords?: boolean;
    readonly before?: string;
    /** How numbers and dates are written from then on. */
    readonly form?: Form;
    /** The name that the workspace had in its bundle. */
    readonly bundle?: string;
    readonly people?: readonly { readonly id: string; readonly name: string; readonly email: string }[];
  };
}

export interface WorkspaceView {
  /** As it stands in addresses. */
  readonly key: string;
  readonly name: string;
  /** How numbers and dates are written in it. */
  readonly form: Form;
}

export interface PersonView {
  readonly id: string;
  readonly name: string;
  readonly role: string;
  /** How they write numbers and dates; `null`: as each workspace does. */
  readonly form: Form | null;
}

/** Somebody who takes part in a workspace, or did. */
export interface MemberView extends PersonView {
  /** The key of the role that they were given themselves; `null` where they have none. */
  readonly access: string | null;
  /** What they are by the groups that they are in. */
  readonly groups: readonly { readonly group: string; readonly access: string }[];
  /** All that they may do there, by whatever role; nothing where they are no longer here. */
  readonly rights: readonly Right[];
  /** Whether they see only a part of it. */
  readonly seesPart: boolean;
  /** Whether it is a program of the workspace's own, which nobody signs in as. */
  readonly isService: boolean;
  /** Whether they haven't signed in yet, and have nothing to do so by. */
  readonly isAwaited: boolean;
  /** Whether they give a code after their password. */
  readonly hasSecond: boolean;
}

/** Who takes part in a workspace, or did; and what one can be there. */
export interface PeopleAnswer {
  readonly people: readonly MemberView[];
  readonly roles: readonly RoleView[];
  /** Keys of the roles that want a second step of who signs in. */
  readonly wantSecond: readonly string[];
  /** Keys of the roles that see only a part of it. */
  readonly partial: readonly string[];
  /** What somebody else approves. */
  readonly twoPeople: readonly TwoPeopleKind[];
}

/** A role of a workspace's own, as it is asked for. */
export type OwnRole = Omit<RoleView, 'key'>;

/** People of the installation who are given what they may together. */
export interface GroupView {
  readonly id: string;
  readonly name: string;
  /** What the company's sign-in says of who is in it; `null`: people are put in and taken out here. */
  readonly claim: string | null;
  readonly members: readonly { readonly id: string; readonly name: string }[];
}

/** A group, as a workspace sees it. */
export interface WorkspaceGroup extends GroupView {
  /** The key of the role that all of it have there; `null`: none. */
  readonly access: string | null;
}

/** Somebody who was let in, and what stands in the address by which they choose a password, if they need one. */
export interface LetIn {
  readonly person: MemberView;
  readonly secret: string | null;
}

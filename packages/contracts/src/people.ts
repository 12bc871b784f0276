import {
  IsBoolean,
  IsEmail,
  IsIn,
  IsInt,
  IsOptional,
  IsString,
  IsUUID,
  Length,
  Matches,
  MaxLength,
  Min,
  ValidateIf,
} from 'class-validator';

/**
 * What a person may do at most. `owner`: everything, and looking after people and the installation; `engineer`: makes and works on
 * what is theirs or shared with them; `listener`: hears what is shared with them, comments, accepts.
 */
export const ROLES = ['owner', 'engineer', 'listener'] as const;
export type Role = (typeof ROLES)[number];

/** What somebody may do in a production that is shared with them. */
export const SHARES = ['engineer', 'listener'] as const;
export type Share = (typeof SHARES)[number];

/** What somebody may do with a session: hear it (and comment, accept), or change it as well. */
export type May = 'hear' | 'change';

export const PASSWORD_LENGTHS = { least: 12, most: 128 } as const;
export const MOST_NAME_LENGTH = 80;
const MOST_EMAIL_LENGTH = 254;

export interface PersonView {
  readonly id: string;
  readonly name: string;
  readonly email: string;
  readonly role: Role;
  /** May not sign in; what they made stays. */
  readonly disabled: boolean;
  /** Recordings of theirs, and what they may hold of them; null: as much as there is. */
  readonly usedBytes: number;
  readonly mostBytes: number | null;
  /** A code from a device is asked for beside the password. */
  readonly secondStep: boolean;
  readonly createdAt: string;
  readonly lastSeenAt: string | null;
  /** After too many wrong passwords, until then. */
  readonly lockedUntil: string | null;
}

/** GET /api/who */
export interface WhoView {
  /** Several people share this installation, each with an account. */
  readonly shared: boolean;
  /** Who asks; null where nobody is signed in, and where there are no accounts. */
  readonly person: Pick<PersonView, 'id' | 'name' | 'email' | 'role'> | null;
  /** Goes with every change, in the header `x-euphonos-token`. */
  readonly token: string | null;
  /** This installation asks for a second step that is not set up: until then nothing but the account itself is answered. */
  readonly secondStepNeeded: boolean;
}

/** POST /api/sign-in */
export class SignIn {
  @IsString()
  @MaxLength(MOST_EMAIL_LENGTH)
  email!: string;

  @IsString()
  @MaxLength(PASSWORD_LENGTHS.most)
  password!: string;

  /** Of a device, where the account asks for one. */
  @IsOptional()
  @Matches(/^\d{6}$/, { message: 'The code has six digits.' })
  code?: string;
}

/** PUT /api/second-step */
export class GiveCode {
  @Matches(/^\d{6}$/, { message: 'The code has six digits.' })
  code!: string;
}

/** POST /api/second-step: for a device that makes codes, shown once. */
export interface SecondStepBegun {
  /** In base 32. */
  readonly secret: string;
  /** otpauth://… */
  readonly address: string;
}

/** POST /api/password */
export class ChangePassword {
  @IsString()
  @MaxLength(PASSWORD_LENGTHS.most)
  present!: string;

  @IsString()
  @MaxLength(PASSWORD_LENGTHS.most)
  next!: string;
}

/** POST /api/prove */
export class ProvePassword {
  @IsString()
  @MaxLength(PASSWORD_LENGTHS.most)
  password!: string;
}

/** POST /api/invitations */
export class Invite {
  @IsIn(ROLES)
  role!: Role;

  /** Shared with them at once. */
  @IsOptional()
  @IsUUID()
  productionId?: string;

  /** For whom it is, in the list of invitations that are open. */
  @IsString()
  @Length(1, MOST_NAME_LENGTH)
  note!: string;
}

/** The link itself is told once, to whoever made it: only its hash is kept. */
export interface InvitationMade {
  readonly link: string;
  readonly expiresAt: string;
}

/** What an invitation is for, told to whoever has its link. */
export interface InvitationView {
  /** `join`: a new account; `renew`: another password for one that is there. */
  readonly kind: 'join' | 'renew';
  readonly role: Role;
  readonly productionName: string | null;
  /** Of the account whose password it renews. */
  readonly email: string | null;
  readonly expiresAt: string;
}

/** One that nobody has taken yet, in the owner's list. */
export interface OpenInvitation {
  readonly id: string;
  readonly kind: 'join' | 'renew';
  readonly role: Role;
  readonly note: string;
  readonly madeBy: string | null;
  readonly expiresAt: string;
}

/** POST /api/invitations/look-up: in a body, since addresses are logged and kept. */
export class LookUpInvitation {
  @IsString()
  @Length(20, 100)
  secret!: string;
}

/** POST /api/invitations/take */
export class TakeInvitation extends LookUpInvitation {
  /** Left out where a password is renewed. */
  @IsOptional()
  @IsString()
  @Length(1, MOST_NAME_LENGTH)
  name?: string;

  @IsOptional()
  @IsEmail()
  @MaxLength(MOST_EMAIL_LENGTH)
  email?: string;

  @IsString()
  @MaxLength(PASSWORD_LENGTHS.most)
  password!: string;
}

/** PATCH /api/people/:id */
export class ChangePerson {
  @IsOptional()
  @IsIn(ROLES)
  role?: Role;

  @IsOptional()
  @IsBoolean()
  disabled?: boolean;

  /** What they may hold; null: as much as there is. */
  @IsOptional()
  @ValidateIf(({ mostBytes }: ChangePerson) => mostBytes !== null)
  @IsInt()
  @Min(0)
  mostBytes?: number | null;
}

/** PUT /api/productions/:id/people/:personId */
export class ShareProduction {
  @IsIn(SHARES)
  share!: Share;
}

/** Somebody with whom a production is shared. */
export interface ProductionPerson {
  readonly id: string;
  readonly name: string;
  readonly role: Role;
  readonly share: Share;
}

/** Somebody who could be asked in: names alone. */
export interface PersonName {
  readonly id: string;
  readonly name: string;
  readonly role: Role;
}

/** A device that is signed in, of the one who asks. */
export interface SignedIn {
  readonly id: string;
  readonly agent: string;
  readonly since: string;
  readonly seenAt: string;
  /** The one that asks. */
  readonly here: boolean;
}

/** One line of who did what. */
export interface DoneView {
  readonly id: string;
  readonly at: string;
  /** Many of the same kind within a while are one line. */
  readonly until: string;
  readonly times: number;
  readonly person: string | null;
  /** `sessions.save`, `sign-in.refused` …: the part of the house and what was done there. */
  readonly action: string;
  readonly subject: string | null;
}

/** GET /api/done */
export interface DonePage {
  readonly rows: readonly DoneView[];
  /** Ask with `before` this for what is older; null at the end. */
  readonly next: string | null;
}

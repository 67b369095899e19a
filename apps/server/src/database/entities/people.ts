import { type Capability, type Role } from '@eager-sieve/contracts';
import { Column, Entity, JoinColumn, ManyToOne, PrimaryColumn, PrimaryGeneratedColumn } from 'typeorm';
import { sealing } from '../sealed';

const SEALED = sealing(process.env['SIEVE_SECRET']);

/** Somebody who may sign in. */
@Entity('person')
export class Person {
  @PrimaryGeneratedColumn()
  id: number;
  /** folded, by which they sign in */
  @Column('text')
  email: string;
  @Column('text')
  name: string;
  @Column('text')
  role: Role;
  @Column('text', { nullable: true })
  team: string | null;
  /** whether a seller sees the contacts of everyone of their team, and not only their own */
  @Column('bool', { name: 'sees_team' })
  seesTeam: boolean;
  /** whether they get a mail each morning that has something for them */
  @Column('bool', { name: 'daily_mail' })
  dailyMail: boolean;
  /** the day of the workspace on which that was last looked at */
  @Column('date', { name: 'mailed_on', select: false, nullable: true })
  mailedOn: string | null;
  /** argon2id, with its parameters; null as long as an invitation is open */
  @Column('text', { name: 'password_hash', select: false, nullable: true })
  passwordHash: string | null;
  @Column('timestamptz', { name: 'made_at' })
  madeAt: Date;
  /** since when they may not sign in */
  @Column('timestamptz', { name: 'disabled_at', nullable: true })
  disabledAt: Date | null;
  /** the secret of their codes (RFC 6238), in base 32; sealed where the installation has a secret for that */
  @Column('text', { name: 'second_factor', select: false, nullable: true, transformer: SEALED })
  secondFactor: string | null;
  /** a secret that they have not yet shown a code of */
  @Column('text', { name: 'second_factor_pending', select: false, nullable: true, transformer: SEALED })
  secondFactorPending: string | null;
  /** the time step of the last code that was taken: none opens twice */
  @Column('bigint', { name: 'second_factor_step', select: false, nullable: true })
  secondFactorStep: number | null;
  /** SHA-256 of the recovery codes that are left, in hex */
  @Column('text', { name: 'recovery_hashes', array: true, select: false })
  recoveryHashes: string[];
}

/** A link by which somebody sets their password: for the first time, or anew. */
@Entity('invitation')
export class Invitation {
  /** SHA-256 of the token in the link, in hex */
  @PrimaryColumn('text', { name: 'token_hash' })
  tokenHash: string;
  @Column('int', { name: 'person_id' })
  personId: number;
  @ManyToOne(() => Person)
  @JoinColumn({ name: 'person_id' })
  person: Person;
  @Column('timestamptz', { name: 'expires_at' })
  expiresAt: Date;
}

/** One browser in which somebody is signed in. */
@Entity('session')
export class Session {
  /** SHA-256 of the token that the browser holds, in hex */
  @PrimaryColumn('text', { name: 'id_hash' })
  idHash: string;
  /** by which people name it; it opens nothing */
  @Column('uuid', { generated: 'uuid' })
  id: string;
  @Column('int', { name: 'person_id' })
  personId: number;
  @ManyToOne(() => Person)
  @JoinColumn({ name: 'person_id' })
  person: Person;
  @Column('text')
  csrf: string;
  /** how the browser names itself */
  @Column('text')
  agent: string;
  /** the network address from which they signed in */
  @Column('text')
  address: string;
  @Column('timestamptz', { name: 'made_at' })
  madeAt: Date;
  @Column('timestamptz', { name: 'seen_at' })
  seenAt: Date;
  @Column('timestamptz', { name: 'expires_at' })
  expiresAt: Date;
}

/** A key by which a program calls the public API. */
@Entity('api_key')
export class ApiKey {
  @PrimaryGeneratedColumn()
  id: number;
  @Column('text')
  name: string;
  /** the first characters of the key, by which people tell it from others */
  @Column('text')
  prefix: string;
  /** SHA-256 of the key, in hex */
  @Column('text', { name: 'key_hash' })
  keyHash: string;
  @Column('text', { array: true })
  scopes: Capability[];
  @Column('timestamptz', { name: 'made_at' })
  madeAt: Date;
  @Column('text', { name: 'made_by', nullable: true })
  madeBy: string | null;
  @Column('timestamptz', { name: 'last_used_at', nullable: true })
  lastUsedAt: Date | null;
  @Column('timestamptz', { name: 'revoked_at', nullable: true })
  revokedAt: Date | null;
}

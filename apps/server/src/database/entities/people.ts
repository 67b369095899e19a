import { type Capability, type Role } from '@eager-sieve/contracts';
import { Column, Entity, JoinColumn, ManyToOne, PrimaryColumn, PrimaryGeneratedColumn } from 'typeorm';

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
  /** argon2id, with its parameters */
  @Column('text', { name: 'password_hash', select: false })
  passwordHash: string;
  @Column('timestamptz', { name: 'made_at' })
  madeAt: Date;
}

/** One browser in which somebody is signed in. */
@Entity('session')
export class Session {
  /** SHA-256 of the token that the browser holds, in hex */
  @PrimaryColumn('text', { name: 'id_hash' })
  idHash: string;
  @Column('int', { name: 'person_id' })
  personId: number;
  @ManyToOne(() => Person)
  @JoinColumn({ name: 'person_id' })
  person: Person;
  @Column('text')
  csrf: string;
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

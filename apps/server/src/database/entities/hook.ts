import { type Fault } from '@eager-sieve/core';
import { type HookBody } from '@eager-sieve/contracts';
import { Column, Entity, PrimaryGeneratedColumn } from 'typeorm';
import { sealing } from '../sealed';

/** An address to which another program sends what happens there. */
@Entity('hook')
export class Hook {
  @PrimaryGeneratedColumn()
  id: number;
  /** the part of the address that nobody guesses */
  @Column('text')
  token: string;
  @Column('text')
  name: string;
  /** what its signals come from; stays when its name changes, so that nothing comes twice */
  @Column('text')
  source: string;
  @Column('boolean', { name: 'is_on' })
  isOn: boolean;
  /** by which what is sent is signed; not to be read off the database */
  @Column('text', { transformer: sealing(process.env['SIEVE_SECRET']) })
  secret: string;
  @Column('jsonb')
  reads: Omit<HookBody, 'name' | 'isOn'>;
  @Column('timestamptz', { name: 'made_at' })
  madeAt: Date;
  @Column('text', { name: 'made_by' })
  madeBy: string;
  @Column('timestamptz', { name: 'last_at', nullable: true })
  lastAt: Date | null;
  @Column('int')
  taken: number;
  @Column('int')
  refused: number;
}

/** What was sent to a hook lately. */
@Entity('hook_delivery')
export class HookDeliveryRow {
  @PrimaryGeneratedColumn()
  id: number;
  @Column('int', { name: 'hook_id' })
  hookId: number;
  @Column('timestamptz')
  at: Date;
  @Column('text')
  state: 'taken' | 'known' | 'refused';
  @Column('jsonb')
  faults: readonly Fault[];
  @Column('jsonb')
  body: unknown;
}

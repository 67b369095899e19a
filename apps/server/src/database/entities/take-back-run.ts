import { Column, Entity, PrimaryGeneratedColumn } from 'typeorm';

/** What taking back has come to so far, without anything personal: that is read from the ledger. */
export interface TakeBackTold {
  readonly signals: number;
  readonly effects: number;
  readonly changes: Readonly<Record<string, number>>;
  readonly stay: number;
  /** the first of those that stay, by their ids in the ledger */
  readonly stays: readonly { readonly entry: number; readonly why: string }[];
}

/** Something that is taken back, or was. */
@Entity('take_back_run')
export class TakeBackRun {
  @PrimaryGeneratedColumn()
  id: number;
  /** `again`: it does again what another run took back; `part`: it is part of something that is undone as a whole */
  @Column('text')
  does: 'back' | 'again' | 'part';
  /** the run that this one reverses */
  @Column('int', { name: 'of_id', nullable: true })
  ofId: number | null;
  /** in words */
  @Column('text')
  what: string;
  @Column('text', { name: 'by_ref' })
  byRef: string;
  @Column('text')
  state: 'running' | 'done' | 'stopped' | 'failed';
  /** effects and signals that it began with */
  @Column('int')
  total: number;
  /** how many of these have been seen to */
  @Column('int')
  done: number;
  @Column('jsonb')
  told: TakeBackTold;
  /** how often it failed, one go after the other */
  @Column('int')
  failed: number;
  @Column('text', { nullable: true })
  error: string | null;
  @Column('timestamptz', { name: 'started_at' })
  startedAt: Date;
  @Column('timestamptz', { name: 'ended_at', nullable: true })
  endedAt: Date | null;
}

import { Column, Entity, PrimaryGeneratedColumn } from 'typeorm';

/** A rule that is run once over whoever matches, a signal map that is applied to the signals there are, or one change by hand of many contacts or companies. */
@Entity('sweep_run')
export class SweepRun {
  @PrimaryGeneratedColumn()
  id: number;
  /** null for a change by hand */
  @Column('int', { name: 'definition_id', nullable: true })
  definitionId: number | null;
  /** whom it is run over */
  @Column('text', { name: 'subject_kind' })
  of: 'contact' | 'company';
  /** what a change by hand changes of each, while it goes on; and in words, without texts that could tell of somebody */
  @Column('jsonb', { nullable: true })
  edit: object | null;
  @Column('text', { nullable: true })
  what: string | null;
  /** of the definition, when it was begun */
  @Column('int')
  version: number;
  /** who began it; null for its own times */
  @Column('text', { name: 'by_ref', nullable: true })
  byRef: string | null;
  @Column('timestamptz', { name: 'planned_for', nullable: true })
  plannedFor: Date | null;
  @Column('text')
  state: 'running' | 'done' | 'cancelled' | 'missed';
  /** how many matched when it began */
  @Column('int')
  total: number;
  @Column('timestamptz', { name: 'started_at' })
  startedAt: Date;
  @Column('timestamptz', { name: 'ended_at', nullable: true })
  endedAt: Date | null;
  /** a process has it in hand until then */
  @Column('timestamptz', { name: 'lease_until', nullable: true })
  leaseUntil: Date | null;
}

import { Column, Entity, PrimaryGeneratedColumn } from 'typeorm';

/** A rule that is run once over whoever matches, or a signal map that is applied to the signals there are. */
@Entity('sweep_run')
export class SweepRun {
  @PrimaryGeneratedColumn()
  id: number;
  @Column('int', { name: 'definition_id' })
  definitionId: number;
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

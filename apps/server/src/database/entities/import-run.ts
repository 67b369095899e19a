import { type ImportOptions, type ImportView } from '@eager-sieve/contracts';
import { Column, Entity, PrimaryGeneratedColumn } from 'typeorm';

/** One file of contacts that was, or is being, brought in. */
@Entity('import_run')
export class ImportRun {
  @PrimaryGeneratedColumn()
  id: number;
  @Column('text')
  name: string;
  @Column('text')
  state: ImportView['state'];
  @Column('jsonb')
  options: ImportOptions;
  /** the length of the file, where it is known */
  @Column('bigint', { default: 0 })
  bytes: number;
  @Column('bigint', { name: 'bytes_read', default: 0 })
  bytesRead: number;
  /** how many bytes of the file are kept here, for somebody to go on with */
  @Column('bigint', { default: 0 })
  stored: number;
  /** whether all of the file came */
  @Column('boolean', { name: 'is_whole', default: false })
  isWhole: boolean;
  /** the process that has it in hand, by a name that it makes for each import */
  @Column('text', { nullable: true })
  holder: string | null;
  @Column('int', { default: 0 })
  rows: number;
  @Column('int', { default: 0 })
  created: number;
  @Column('int', { default: 0 })
  updated: number;
  @Column('int', { default: 0 })
  unchanged: number;
  @Column('int', { default: 0 })
  faulty: number;
  /** of the first faulty rows */
  @Column('jsonb', { default: [] })
  faults: ImportView['faults'];
  @Column('text', { nullable: true })
  error: string | null;
  @Column('timestamptz', { name: 'started_at' })
  startedAt: Date;
  @Column('timestamptz', { name: 'finished_at', nullable: true })
  finishedAt: Date | null;
  @Column('text', { nullable: true })
  by: string | null;
  /** the watched file that it is a reading of */
  @Column('int', { name: 'watch_id', nullable: true })
  watchId: number | null;
  /** whoever works it keeps moving this ahead; when it has passed, they are gone */
  @Column('timestamptz', { name: 'alive_until', nullable: true })
  aliveUntil: Date | null;
}

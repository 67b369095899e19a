import { type ImportOptions, type Place, type Timetable, type WatchBody } from '@eager-sieve/contracts';
import { sealing } from '../sealed';
import { Column, Entity, PrimaryGeneratedColumn } from 'typeorm';

/** A file that is looked at by a timetable and read whenever it has changed. */
@Entity('watch')
export class Watch {
  @PrimaryGeneratedColumn()
  id: number;
  @Column('text')
  name: string;
  @Column('boolean', { name: 'is_on' })
  isOn: boolean;
  @Column('jsonb')
  place: Place;
  /** user and password of an address that wants them, as JSON; not to be read off the database */
  @Column('text', { nullable: true, transformer: sealing(process.env['SIEVE_SECRET']) })
  login: string | null;
  @Column('jsonb')
  timetable: Timetable;
  @Column('jsonb')
  options: ImportOptions;
  @Column('jsonb')
  gone: WatchBody['gone'];
  @Column('text', { name: 'made_by' })
  madeBy: string;
  @Column('timestamptz', { name: 'next_at', nullable: true })
  nextAt: Date | null;
  /** a process has it in hand until then */
  @Column('timestamptz', { name: 'lease_until', nullable: true })
  leaseUntil: Date | null;
  /** when it was looked at last */
  @Column('timestamptz', { name: 'read_at', nullable: true })
  readAt: Date | null;
  /** of what was read last and whole */
  @Column('text', { nullable: true })
  hash: string | null;
  @Column('text', { nullable: true })
  error: string | null;
  /** how many are gone from it and wait for somebody to say whether that is right */
  @Column('int', { default: 0 })
  held: number;
  /** the import that read it last */
  @Column('int', { name: 'import_id', nullable: true })
  importId: number | null;
  /** of what that import is reading, until it has ended */
  @Column('text', { name: 'reading_hash', nullable: true })
  readingHash: string | null;
}

import { type Column as TableColumn } from '@eager-sieve/core';
import { Column, Entity, PrimaryGeneratedColumn } from 'typeorm';

/** A table that was frozen in its order, to be worked down. Who is on it stands in `worklist_entry`. */
@Entity('worklist')
export class Worklist {
  @PrimaryGeneratedColumn()
  id: number;
  @Column('text')
  name: string;
  @Column('text', { name: 'by_ref' })
  byRef: string;
  @Column('boolean', { name: 'for_all' })
  forAll: boolean;
  /** what is shown of each */
  @Column('jsonb')
  columns: TableColumn[];
  @Column('timestamptz', { name: 'made_at' })
  madeAt: Date;
}

/** What somebody wrote down about a contact or a company. */
@Entity('note')
export class Note {
  @PrimaryGeneratedColumn()
  id: number;
  /** the id of the contact or the company */
  @Column('bigint', { name: 'contact_id' })
  contactId: number;
  @Column('text')
  text: string;
  @Column('text', { name: 'by_ref' })
  byRef: string;
  @Column('timestamptz', { name: 'made_at' })
  madeAt: Date;
  @Column('timestamptz', { name: 'changed_at', nullable: true })
  changedAt: Date | null;
}

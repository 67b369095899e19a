import { Column, Entity, PrimaryGeneratedColumn } from 'typeorm';

/** What somebody is to do about a contact or a company. */
@Entity('task')
export class Task {
  @PrimaryGeneratedColumn({ type: 'bigint' })
  id: number;
  /** the id of the contact or the company */
  @Column('bigint', { name: 'contact_id' })
  contactId: number;
  @Column('text')
  title: string;
  /** the instant from which on it is late */
  @Column('timestamptz', { name: 'due_at' })
  dueAt: Date;
  /** a sign-in address; null: anyone */
  @Column('text', { nullable: true })
  assignee: string | null;
  @Column('timestamptz', { name: 'made_at' })
  madeAt: Date;
  /** the effect that made it */
  @Column('bigint', { name: 'ledger_id', nullable: true })
  ledgerId: number | null;
  @Column('timestamptz', { name: 'done_at', nullable: true })
  doneAt: Date | null;
  @Column('text', { name: 'done_by', nullable: true })
  doneBy: string | null;
}

/** What a rule told somebody who signs in here. */
@Entity('notice')
export class Notice {
  @PrimaryGeneratedColumn({ type: 'bigint' })
  id: number;
  /** the id of the contact or the company that it is about */
  @Column('bigint', { name: 'contact_id' })
  contactId: number;
  @Column('text')
  text: string;
  /** a sign-in address; null: anyone */
  @Column('text', { nullable: true })
  recipient: string | null;
  @Column('timestamptz', { name: 'made_at' })
  madeAt: Date;
  @Column('bigint', { name: 'ledger_id', nullable: true })
  ledgerId: number | null;
  @Column('timestamptz', { name: 'read_at', nullable: true })
  readAt: Date | null;
}

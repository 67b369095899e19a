import { type Answers } from '@eager-sieve/core';
import { Column, Entity, PrimaryColumn } from 'typeorm';

/** Somebody's way through a form: their answers until they are sent, and how far they came. */
@Entity('form_visit')
export class FormVisit {
  @PrimaryColumn('uuid')
  id: string;
  @Column('int', { name: 'form_id' })
  formId: number;
  @Column('int')
  version: number;
  /** what has been answered so far; emptied when it is sent */
  @Column('jsonb')
  answers: Answers;
  /** the keys of the questions that were shown and left behind, in order */
  @Column('jsonb')
  asked: readonly string[];
  /** the link of their own by which they opened it */
  @Column('text', { name: 'came_from', nullable: true })
  me: string | null;
  @Column('timestamptz', { name: 'begun_at' })
  begunAt: Date;
  @Column('timestamptz', { name: 'touched_at' })
  touchedAt: Date;
  @Column('timestamptz', { name: 'done_at', nullable: true })
  doneAt: Date | null;
  /** the key of the outcome that they came to, if it was one */
  @Column('text', { nullable: true })
  outcome: string | null;
  /** whether consent may have to be confirmed by a link */
  @Column('boolean')
  confirm: boolean;
}

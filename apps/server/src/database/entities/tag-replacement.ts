import { type Condition, type DefinitionKind, type DocumentItem } from '@eager-sieve/core';
import { Column, Entity, PrimaryGeneratedColumn } from 'typeorm';

/** A definition as the document gives it. */
export interface NamedItem {
  readonly kind: DefinitionKind;
  readonly item: DocumentItem;
}

/** A tag for those who meet a condition. */
export interface TagPart {
  readonly tag: number;
  readonly if: Condition;
}

/** A tag that is replaced by another, or split into several: its people, and what names it. */
@Entity('tag_replacement')
export class TagReplacement {
  @PrimaryGeneratedColumn()
  id: number;
  @Column('int', { name: 'from_id' })
  fromId: number;
  @Column('int', { name: 'into_id' })
  intoId: number;
  /** where it is split: the others that it becomes, before that of everyone else */
  @Column('jsonb')
  parts: readonly TagPart[];
  @Column('text', { name: 'by_ref' })
  byRef: string;
  /** who takes it back */
  @Column('text', { name: 'back_by', nullable: true })
  backBy: string | null;
  @Column('text')
  state: 'begun' | 'handing on' | 'taking off' | 'done' | 'stopped' | 'taking back' | 'taken back';
  /** why it stopped */
  @Column('text', { nullable: true })
  error: string | null;
  /** the run that gave its people the other tag */
  @Column('int', { name: 'handed_run', nullable: true })
  handedRun: number | null;
  /** the run that took it off them */
  @Column('int', { name: 'taken_run', nullable: true })
  takenRun: number | null;
  /** what named it, as it was before */
  @Column('jsonb')
  before: readonly NamedItem[];
  /** the versions that it made of that, by id */
  @Column('jsonb')
  after: Readonly<Record<number, number>>;
  @Column('timestamptz', { name: 'made_at' })
  madeAt: Date;
  @Column('timestamptz', { name: 'ended_at', nullable: true })
  endedAt: Date | null;
  /** a process has it in hand until then */
  @Column('timestamptz', { name: 'lease_until', nullable: true })
  leaseUntil: Date | null;
}

import { type DefinitionKind, type DocumentItem } from '@eager-sieve/core';
import { Column, Entity, PrimaryGeneratedColumn } from 'typeorm';

/** A definition as the document gives it. */
export interface NamedItem {
  readonly kind: DefinitionKind;
  readonly item: DocumentItem;
}

/** A tag that is merged into another: its people, and what names it. */
@Entity('tag_merge')
export class TagMerge {
  @PrimaryGeneratedColumn()
  id: number;
  @Column('int', { name: 'from_id' })
  fromId: number;
  @Column('int', { name: 'into_id' })
  intoId: number;
  @Column('text', { name: 'by_ref' })
  byRef: string;
  @Column('text')
  state: 'begun' | 'handing on' | 'taking off' | 'done' | 'taking back' | 'taken back';
  /** the run that gave its people the other tag */
  @Column('int', { name: 'handed_run', nullable: true })
  handedRun: number | null;
  /** the run that took it off them */
  @Column('int', { name: 'taken_run', nullable: true })
  takenRun: number | null;
  /** what named it, as it was before */
  @Column('jsonb')
  before: readonly NamedItem[];
  /** the versions that the merge made of that, by id */
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

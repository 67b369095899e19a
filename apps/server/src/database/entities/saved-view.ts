import { Column, Entity, PrimaryGeneratedColumn } from 'typeorm';

/** What somebody narrows a list to again and again. */
@Entity('saved_view')
export class SavedViewRow {
  @PrimaryGeneratedColumn()
  id: number;
  @Column('text')
  place: string;
  @Column('text')
  name: string;
  /** as it stands in the address of the list */
  @Column('text')
  query: string;
  @Column('text', { name: 'by_ref' })
  byRef: string;
  @Column('boolean', { name: 'for_all' })
  forAll: boolean;
  @Column('timestamptz', { name: 'made_at' })
  madeAt: Date;
}

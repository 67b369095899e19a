import { Column, Entity, JoinColumn, ManyToOne, PrimaryGeneratedColumn } from 'typeorm';

/** A message that was sent to its audience once. */
@Entity('send')
export class Send {
  @PrimaryGeneratedColumn()
  id: number;
  @Column('int', { name: 'message_id' })
  messageId: number;
  /** of the message */
  @Column('int')
  version: number;
  @Column('int', { name: 'audience_id' })
  audienceId: number;
  @Column('timestamptz')
  at: Date;
  @Column('text', { nullable: true })
  by: string | null;
}

/** One of those whom a send was for, and what became of it. */
@Entity('send_recipient')
export class SendRecipient {
  @PrimaryGeneratedColumn({ type: 'bigint' })
  id: number;
  @Column('int', { name: 'send_id' })
  sendId: number;
  @ManyToOne(() => Send)
  @JoinColumn({ name: 'send_id' })
  send: Send;
  @Column('bigint', { name: 'contact_id' })
  contactId: number;
  @Column('text')
  state: 'waiting' | 'sent' | 'held back' | 'in doubt';
  @Column('text', { nullable: true })
  why: string | null;
  @Column('timestamptz')
  at: Date;
}

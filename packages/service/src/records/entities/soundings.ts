import type { Depth, Follower, Verdict } from '@bathyscribe/core/checks'
import { Column, Entity, PrimaryColumn } from 'typeorm'

@Entity('sounding')
export class SoundingRecord {
  @PrimaryColumn('text') id!: string
  @Column('text', { name: 'assignment_id' }) assignmentId!: string
  @Column('text', { name: 'person_id', nullable: true }) personId!: string | null
  @Column('text') state!: 'running' | 'done' | 'interrupted'
  @Column('text', { nullable: true }) verdict!: Verdict | null
  @Column('timestamptz', { name: 'started_at' }) startedAt!: Date
  @Column('timestamptz', { name: 'ended_at', nullable: true }) endedAt!: Date | null
  @Column('text') depth!: Depth
  @Column('text') follower!: Follower
  @Column('text', { name: 'pilot_id', nullable: true }) pilotId!: string | null
  @Column('integer', { name: 'wait_minutes' }) waitMinutes!: number
}

import { Column, CreateDateColumn, Entity, PrimaryColumn } from 'typeorm';

/** Sessions that belong together. */
@Entity('production')
export class ProductionEntity {
  @PrimaryColumn('uuid')
  id!: string;

  @Column('text')
  name!: string;

  @Column('timestamptz', { name: 'archived_at', nullable: true })
  archivedAt!: Date | null;

  @CreateDateColumn({ name: 'created_at', type: 'timestamptz' })
  createdAt!: Date;
}

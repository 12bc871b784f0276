import type { DataSourceOptions } from 'typeorm';
import { JobEntity } from '../jobs/job.entity.js';
import { ProfileEntity } from '../profiles/profile.entity.js';
import { RecordingEntity } from '../recordings/recording.entity.js';
import { RenderEntity } from '../renders/render.entity.js';
import { SessionRecordingEntity } from '../sessions/session-recording.entity.js';
import { SessionEntity } from '../sessions/session.entity.js';
import { SurveyEntity } from '../surveys/survey.entity.js';
import { ChainEntity } from '../chains/chain.entity.js';
import { BatchEntity, BatchItemEntity } from '../batches/batch.entity.js';
import { ProductionEntity } from '../productions/production.entity.js';
import { Desk1764700000000 } from './desk.migration.js';
import { HandOver1764800000000 } from './hand-over.migration.js';
import { FirstTables1764000000000 } from './first-tables.migration.js';
import { Holds1764400000000 } from './holds.migration.js';
import { SessionRecordings1764500000000 } from './session-recordings.migration.js';
import { SessionSteps1764600000000 } from './session-steps.migration.js';
import { Tracks1764300000000 } from './tracks.migration.js';
import { Takes1764900000000 } from './takes.migration.js';
import { TakeEntity } from '../takes/take.entity.js';
import { Profiles1764200000000 } from './profiles.migration.js';
import { Surveys1764100000000 } from './surveys.migration.js';

import { LookUps1765700000000 } from './look-ups.migration.js';
import { RenderParts1765600000000 } from './render-parts.migration.js';
import { SecondStep1765500000000 } from './second-step.migration.js';
import { Proven1765400000000 } from './proven.migration.js';
import { Quotas1765300000000 } from './quotas.migration.js';
import { Work1765200000000 } from './work.migration.js';
import { Talk1765100000000 } from './talk.migration.js';
import { Shared1765000000000 } from './shared.migration.js';
import { InvitationEntity, PersonEntity, SignInEntity } from '../people/person.entity.js';

export const entities = [
  PersonEntity,
  SignInEntity,
  InvitationEntity,
  JobEntity,
  RecordingEntity,
  SessionEntity,
  SessionRecordingEntity,
  RenderEntity,
  SurveyEntity,
  ProfileEntity,
  ProductionEntity,
  ChainEntity,
  BatchEntity,
  BatchItemEntity,
  TakeEntity,
];

/** Connection to PostgreSQL. Tables come from the migrations, never from the entities. */
export const dataSourceOptions = (url: string, migrationsRun = true): DataSourceOptions => ({
  type: 'postgres',
  url,
  entities,
  migrations: [
    FirstTables1764000000000,
    Surveys1764100000000,
    Profiles1764200000000,
    Tracks1764300000000,
    Holds1764400000000,
    SessionRecordings1764500000000,
    SessionSteps1764600000000,
    Desk1764700000000,
    HandOver1764800000000,
    Takes1764900000000,
    Shared1765000000000,
    Talk1765100000000,
    Work1765200000000,
    Quotas1765300000000,
    Proven1765400000000,
    SecondStep1765500000000,
    RenderParts1765600000000,
    LookUps1765700000000,
  ],
  migrationsRun,
  synchronize: false,
  extra: { max: 8, connectionTimeoutMillis: 5000 },
});

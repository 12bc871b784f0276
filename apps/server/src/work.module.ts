import { Module, type DynamicModule } from '@nestjs/common';
import { TypeOrmModule } from '@nestjs/typeorm';
import { BatchWorkModule, CoreModule, RecordingsModule, RendersModule, SurveysModule } from './app.module.js';
import type { ServerConfig } from './config.js';
import { dataSourceOptions } from './database/data-source.js';

/** What a process needs that only works: the jobs with what does them. It answers nobody, and changes no table. */
@Module({})
export class WorkModule {
  static with(config: ServerConfig): DynamicModule {
    return {
      module: WorkModule,
      imports: [
        TypeOrmModule.forRoot(dataSourceOptions(config.databaseUrl, false)),
        CoreModule.with(config),
        RecordingsModule,
        SurveysModule,
        RendersModule,
        BatchWorkModule,
      ],
    };
  }
}

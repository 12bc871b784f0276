import { Module, type DynamicModule } from '@nestjs/common';
import { APP_GUARD, APP_INTERCEPTOR } from '@nestjs/core';
import { TypeOrmModule } from '@nestjs/typeorm';
import { SERVER_CONFIG, type ServerConfig } from './config.js';
import { dataSourceOptions } from './database/data-source.js';
import { BatchesController } from './batches/batches.controller.js';
import { BatchesService } from './batches/batches.service.js';
import { WatchService } from './batches/watch.service.js';
import { BundlesController } from './bundles/bundles.controller.js';
import { BundlesService } from './bundles/bundles.service.js';
import { ChainsController } from './chains/chains.controller.js';
import { ChainsService } from './chains/chains.service.js';
import { CoversController } from './covers/covers.controller.js';
import { DemoService } from './demo.service.js';
import { EventsController } from './events/events.controller.js';
import { EventsService } from './events/events.service.js';
import { JobsService } from './jobs/jobs.service.js';
import { MEDIA_STORE } from './media-store/media-store.js';
import { openStore } from './media-store/open-store.js';
import { StoreKeeper } from './media-store/store-keeper.js';
import { DoneService } from './people/done.service.js';
import { InvitationsService } from './people/invitations.service.js';
import { LockOutService } from './people/lock-out.service.js';
import { PeopleController } from './people/people.controller.js';
import { PeopleKeeper } from './people/people-keeper.js';
import { PeopleService } from './people/people.service.js';
import { SecondStepService } from './people/second-step.service.js';
import { SignInController } from './people/sign-in.controller.js';
import { SignInService } from './people/sign-in.service.js';
import { ProductionsController } from './productions/productions.controller.js';
import { ProductionsService } from './productions/productions.service.js';
import { ProfilesController } from './profiles/profiles.controller.js';
import { ProfilesService } from './profiles/profiles.service.js';
import { IntakeService } from './recordings/intake.service.js';
import { PicturesService } from './recordings/pictures.service.js';
import { QuotasService } from './quotas/quotas.service.js';
import { RoomController } from './quotas/room.controller.js';
import { RecordingsController } from './recordings/recordings.controller.js';
import { RecordingsService } from './recordings/recordings.service.js';
import { SamplesService } from './recordings/samples.service.js';
import { ReportsController } from './reports/reports.controller.js';
import { ReportsService } from './reports/reports.service.js';
import { Noting } from './rights/noting.js';
import { RightsGuard } from './rights/rights.guard.js';
import { RightsService } from './rights/rights.service.js';
import { RenderParts } from './renders/render-parts.js';
import { RenderExtras } from './renders/render-extras.js';
import { RenderWork } from './renders/render-work.js';
import { RendersController } from './renders/renders.controller.js';
import { RendersService } from './renders/renders.service.js';
import { HoldsService } from './sessions/holds.service.js';
import { SessionsController } from './sessions/sessions.controller.js';
import { StepsService } from './sessions/steps.service.js';
import { SessionListService } from './sessions/session-list.service.js';
import { SessionsService } from './sessions/sessions.service.js';
import { TrashKeeper } from './sessions/trash-keeper.js';
import { MetricsService } from './state/metrics.service.js';
import { StateController } from './state/state.controller.js';
import { StateService } from './state/state.service.js';
import { SurveysController } from './surveys/surveys.controller.js';
import { SurveysService } from './surveys/surveys.service.js';
import { SimulatedController } from './takes/simulated.controller.js';
import { PresenceService } from './talk/presence.service.js';
import { TalkController } from './talk/talk.controller.js';
import { TalkService } from './talk/talk.service.js';
import { TakesController } from './takes/takes.controller.js';
import { TakeFiles } from './takes/take-file.js';
import { TakeLanding } from './takes/take-landing.js';
import { TakesService } from './takes/takes.service.js';
import { UploadsService } from './uploads/uploads.service.js';
import { WorkPool } from './workers/work-pool.js';

/** Everything that the others need: configuration, the store, events, jobs and the threads that do them. */
@Module({})
export class CoreModule {
  static with(config: ServerConfig): DynamicModule {
    const providers = [
      { provide: SERVER_CONFIG, useValue: config },
      { provide: MEDIA_STORE, useFactory: () => openStore(config.store) },
      EventsService,
      MetricsService,
      JobsService,
      WorkPool,
      StoreKeeper,
      RightsService,
      QuotasService,
      RightsGuard,
    ];
    return { module: CoreModule, global: true, providers, exports: providers };
  }
}

@Module({
  controllers: [SignInController, PeopleController],
  providers: [
    SignInService,
    SecondStepService,
    PeopleService,
    InvitationsService,
    LockOutService,
    DoneService,
    PeopleKeeper,
    { provide: APP_GUARD, useExisting: RightsGuard },
    { provide: APP_INTERCEPTOR, useClass: Noting },
  ],
  exports: [SignInService],
})
export class PeopleModule {}

@Module({ imports: [PeopleModule], controllers: [EventsController] })
export class EventsModule {}

@Module({ controllers: [StateController, RoomController], providers: [StateService] })
export class StateModule {}

@Module({
  providers: [RecordingsService, SamplesService, PicturesService, IntakeService],
  exports: [RecordingsService, SamplesService, IntakeService],
})
export class RecordingsModule {}

@Module({ providers: [UploadsService], exports: [UploadsService] })
export class UploadsModule {}

@Module({ imports: [RecordingsModule, UploadsModule], controllers: [RecordingsController] })
export class IntakeModule {}

@Module({
  imports: [RecordingsModule],
  controllers: [SessionsController],
  providers: [SessionsService, SessionListService, HoldsService, StepsService],
  exports: [SessionsService, SessionListService],
})
export class SessionsModule {}

@Module({ imports: [SessionsModule], providers: [TrashKeeper] })
export class TrashModule {}

@Module({ imports: [SessionsModule], controllers: [TalkController], providers: [TalkService, PresenceService] })
export class TalkModule {}

@Module({ controllers: [ProfilesController], providers: [ProfilesService], exports: [ProfilesService] })
export class ProfilesModule {}

@Module({ controllers: [ProductionsController], providers: [ProductionsService], exports: [ProductionsService] })
export class ProductionsModule {}

@Module({ controllers: [CoversController] })
export class CoversModule {}

@Module({ imports: [UploadsModule], controllers: [BundlesController], providers: [BundlesService] })
export class BundlesModule {}

@Module({ controllers: [ChainsController], providers: [ChainsService] })
export class ChainsModule {}

@Module({
  imports: [ProfilesModule, RecordingsModule, SessionsModule],
  controllers: [RendersController, ReportsController],
  providers: [RendersService, RenderWork, RenderParts, RenderExtras, ReportsService],
  exports: [RendersService],
})
export class RendersModule {}

@Module({ imports: [RecordingsModule], controllers: [SurveysController], providers: [SurveysService], exports: [SurveysService] })
export class SurveysModule {}

@Module({
  imports: [RecordingsModule, SurveysModule],
  controllers: [TakesController, SimulatedController],
  providers: [TakesService, TakeLanding, TakeFiles],
})
export class TakesModule {}

@Module({
  imports: [RecordingsModule, SurveysModule, ProfilesModule, RendersModule],
  providers: [BatchesService],
  exports: [BatchesService],
})
export class BatchWorkModule {}

/** Watched folders lie on the machine of the server. */
@Module({ imports: [BatchWorkModule, RecordingsModule, RendersModule], controllers: [BatchesController], providers: [WatchService] })
export class BatchesModule {}

@Module({})
export class AppModule {
  static with(config: ServerConfig): DynamicModule {
    return {
      module: AppModule,
      imports: [
        TypeOrmModule.forRoot(dataSourceOptions(config.databaseUrl)),
        CoreModule.with(config),
        PeopleModule,
        EventsModule,
        StateModule,
        RecordingsModule,
        IntakeModule,
        SessionsModule,
        TrashModule,
        ProductionsModule,
        ChainsModule,
        ProfilesModule,
        RendersModule,
        BundlesModule,
        CoversModule,
        SurveysModule,
        BatchesModule,
        TakesModule,
        TalkModule,
      ],
      providers: [DemoService],
    };
  }
}

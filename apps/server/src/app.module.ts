import { Module, type DynamicModule } from '@nestjs/common';
import { APP_GUARD, APP_INTERCEPTOR } from '@nestjs/core';
import { ThrottlerGuard, ThrottlerModule } from '@nestjs/throttler';
import { type Logger } from 'pino';
import { AudiencesController } from './audiences/audiences.controller';
import { AudienceSizes } from './audiences/audience-sizes';
import { AudiencesService } from './audiences/audiences.service';
import { ConditionsService } from './audiences/conditions.service';
import { ValuesService } from './audiences/values.service';
import { RowsService } from './audiences/rows.service';
import { PinsService } from './audiences/pins.service';
import { CampaignsController, LinksController } from './campaigns/campaigns.controller';
import { CampaignsService } from './campaigns/campaigns.service';
import { ConsentRequestsService } from './campaigns/consent-requests.service';
import { PostRoomService } from './campaigns/post-room.service';
import { PublicAddress } from './campaigns/public-address';
import { CompaniesController } from './companies/companies.controller';
import { CompaniesService } from './companies/companies.service';
import { DealsService } from './companies/deals.service';
import { BuildsAtOnce } from './counting/builds-at-once';
import { CountingService } from './counting/counting.service';
import { DuplicatesService } from './contacts/duplicates.service';
import { ScoreHistoryService } from './contacts/score-history.service';
import { AddressesService } from './contacts/addresses.service';
import { AsOfService } from './contacts/as-of.service';
import { PersonalDataService } from './contacts/personal-data.service';
import { ContactsController } from './contacts/contacts.controller';
import { ChangesOfManyService } from './contacts/changes-of-many.service';
import { ContactsService } from './contacts/contacts.service';
import { MergesService } from './contacts/merges.service';
import { TimelineService } from './contacts/timeline.service';
import { TrySignalService } from './contacts/try-signal.service';
import { Database } from './database/database';
import { EditsService } from './engine/edits.service';
import { USUAL } from './engine/turn';
import { EngineService } from './engine/engine.service';
import { Follower } from './engine/follower';
import { ServerClock } from './engine/server-clock';
import { HealthController } from './http/health.controller';
import { type AppOptions } from './http/app-options';
import { FormsService } from './intake/forms.service';
import { ImportsService } from './intake/imports.service';
import { HookDoorController, HooksController } from './intake/hooks.controller';
import { HooksService } from './intake/hooks.service';
import { WatchesController } from './intake/watches.controller';
import { RetentionService } from './intake/retention.service';
import { WatchesService } from './intake/watches.service';
import { DownloadsController, FilesController } from './intake/files.controller';
import { FilesService } from './intake/files.service';
import { SiteController, SiteDoorController } from './intake/site.controller';
import { SiteService } from './intake/site.service';
import { SetAsideService } from './intake/set-aside.service';
import { FormResultsService } from './intake/form-results.service';
import { FormTrialsService } from './intake/form-trials.service';
import { FormsController } from './intake/forms.controller';
import { SourcesService } from './intake/sources.service';
import { StreamService } from './intake/stream.service';
import { PlayService } from './stand-ins/play.service';
import { StandInsController } from './stand-ins/stand-ins.controller';
import { FormVisitsService } from './intake/form-visits.service';
import { ImportsController, SignalsController, SetAsideController, StreamController } from './intake/intake.controller';
import { FormPagesController, PublicFormsController } from './intake/public-forms.controller';
import { SignalsService } from './intake/signals.service';
import { AuditService } from './ledger/audit.service';
import { LedgerService } from './ledger/ledger.service';
import { TakeBackRuns } from './ledger/take-back-runs.service';
import { TakeBackService } from './ledger/take-back.service';
import { ViewsService } from './ledger/views.service';
import { WhyNotService } from './ledger/why-not.service';
import { TraceService } from './ledger/trace.service';
import { CirclesService } from './rules/circles.service';
import { FunnelService } from './rules/funnel.service';
import { MapsService } from './rules/maps.service';
import { RehearsalService } from './rules/rehearsal.service';
import { BundlesService } from './rules/bundles.service';
import { RoutingService } from './rules/routing.service';
import { RuleFiguresService } from './rules/rule-figures.service';
import { SweepsService } from './rules/sweeps.service';
import { FieldsController } from './settings/fields.controller';
import { FieldsService } from './settings/fields.service';
import { TagsController } from './tags/tags.controller';
import { TagRehearsalsService } from './tags/tag-rehearsals.service';
import { TagReplacementsService } from './tags/tag-replacements.service';
import { TagsService } from './tags/tags.service';
import { AccessGuard } from './settings/access';
import { DemoDoor } from './today/demo-door';
import { DefinitionStore } from './settings/definition-store';
import { DefinitionsService } from './settings/definitions.service';
import { KeysService } from './settings/keys.service';
import { AccountService } from './settings/account.service';
import { GuessesService } from './settings/guesses.service';
import { PeopleController } from './settings/people.controller';
import { PeopleService } from './settings/people.service';
import { SessionsService } from './settings/sessions.service';
import { LedgerController } from './ledger/ledger.controller';
import { RulesController } from './rules/rules.controller';
import { DefinitionsController, SettingsController } from './settings/settings.controller';
import { BuildsService } from './settings/builds.service';
import { StaffAddressesInterceptor } from './settings/staff-addresses';
import { MetricsService } from './settings/metrics.service';
import { StatusService } from './settings/status.service';
import { NoticesService } from './tasks/notices.service';
import { DayMailsService } from './tasks/day-mails.service';
import { AboutService } from './tasks/about.service';
import { AttachmentsService } from './tasks/attachments.service';
import { NotesService } from './tasks/notes.service';
import { TasksController } from './tasks/tasks.controller';
import { WorklistsController } from './tasks/worklists.controller';
import { WorklistsService } from './tasks/worklists.service';
import { TasksService } from './tasks/tasks.service';
import { EventStreams } from './today/event-streams';
import { TodayController } from './today/today.controller';
import { TodayService } from './today/today.service';

/** General limit for one address; routes that anyone may call have narrower ones of their own. */
const REQUESTS_A_MINUTE = Number(process.env['SIEVE_REQUESTS_A_MINUTE'] ?? 60_000);

@Module({})
export class AppModule {
  static with(options: AppOptions, log: Logger): DynamicModule {
    const { database, databaseUrl, clock, workers, portion = USUAL, threads = false } = options;
    return {
      module: AppModule,
      imports: [ThrottlerModule.forRoot([{ ttl: 60_000, limit: REQUESTS_A_MINUTE }])],
      controllers: [
        PeopleController,
        SettingsController,
        DefinitionsController,
        ContactsController,
        CompaniesController,
        LedgerController,
        AudiencesController,
        SignalsController,
        ImportsController,
        SetAsideController,
        HooksController,
        WatchesController,
        HookDoorController,
        SiteController,
        SiteDoorController,
        FilesController,
        DownloadsController,
        PublicFormsController,
        FormPagesController,
        FormsController,
        StreamController,
        StandInsController,
        RulesController,
        FieldsController,
        TagsController,
        CampaignsController,
        LinksController,
        TasksController,
        WorklistsController,
        TodayController,
        HealthController,
      ],
      providers: [
        { provide: Database, useValue: database },
        { provide: ServerClock, useValue: clock },
        { provide: DemoDoor, useValue: options.demo ?? new DemoDoor() },
        { provide: Follower, useFactory: () => new Follower(database, databaseUrl) },
        DefinitionStore,
        { provide: CountingService, useFactory: () => new CountingService(options, log) },
        {
          provide: BuildsAtOnce,
          inject: [DefinitionStore, CountingService],
          useFactory: (store: DefinitionStore, counting: CountingService) => new BuildsAtOnce(database, store, clock, counting, log),
        },
        {
          provide: EngineService,
          inject: [
            DefinitionStore,
            Follower,
            PostRoomService,
            DayMailsService,
            RetentionService,
            ImportsService,
            WatchesService,
            SweepsService,
            TagReplacementsService,
            TakeBackRuns,
          ],
          useFactory: (
            store: DefinitionStore,
            follower: Follower,
            postRoom: PostRoomService,
            dayMails: DayMailsService,
            retention: RetentionService,
            imports: ImportsService,
            watches: WatchesService,
            sweeps: SweepsService,
            replacements: TagReplacementsService,
            takeBackRuns: TakeBackRuns,
          ) =>
            new EngineService({
              database,
              databaseUrl,
              clock,
              store,
              follower,
              postRoom,
              dayMails,
              retention,
              imports,
              watches,
              sweeps,
              replacements,
              takeBackRuns,
              workers,
              portion,
              threads,
              log,
            }),
        },
        EditsService,
        ContactsService,
        ChangesOfManyService,
        DuplicatesService,
        ScoreHistoryService,
        PersonalDataService,
        AddressesService,
        AsOfService,
        CompaniesService,
        DealsService,
        RowsService,
        ConditionsService,
        ValuesService,
        AudienceSizes,
        AudiencesService,
        PinsService,
        TasksService,
        DayMailsService,
        AboutService,
        AttachmentsService,
        NotesService,
        WorklistsService,
        NoticesService,
        SignalsService,
        ImportsService,
        SetAsideService,
        FormsService,
        FormVisitsService,
        StreamService,
        SourcesService,
        HooksService,
        RetentionService,
        WatchesService,
        SiteService,
        FilesService,
        PlayService,
        FormResultsService,
        FormTrialsService,
        LedgerService,
        AuditService,
        ViewsService,
        WhyNotService,
        TraceService,
        TakeBackRuns,
        TakeBackService,
        TimelineService,
        TrySignalService,
        MergesService,
        RehearsalService,
        FieldsService,
        TagsService,
        TagReplacementsService,
        TagRehearsalsService,
        MapsService,
        FunnelService,
        BundlesService,
        RoutingService,
        RuleFiguresService,
        SweepsService,
        CirclesService,
        CampaignsService,
        PublicAddress,
        PostRoomService,
        ConsentRequestsService,
        DefinitionsService,
        SessionsService,
        PeopleService,
        AccountService,
        GuessesService,
        KeysService,
        StatusService,
        MetricsService,
        BuildsService,
        TodayService,
        EventStreams,
        { provide: APP_GUARD, useClass: ThrottlerGuard },
        { provide: APP_GUARD, useClass: AccessGuard },
        { provide: APP_INTERCEPTOR, useClass: StaffAddressesInterceptor },
      ],
    };
  }
}

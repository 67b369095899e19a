import { Controller, Res } from '@nestjs/common';
import { type Response } from 'express';
import { type Sent } from '@eager-sieve/contracts';
import { Handles, SentHere } from '../http/route';
import { CallerIs, callerRef, type Caller } from '../settings/access';
import { BundlesService } from './bundles.service';
import { CirclesService } from './circles.service';
import { FunnelService } from './funnel.service';
import { MapsService } from './maps.service';
import { RehearsalService } from './rehearsal.service';
import { RuleFiguresService } from './rule-figures.service';
import { RoutingService } from './routing.service';
import { SweepsService } from './sweeps.service';
import { withoutNames } from './without-names';

@Controller()
export class RulesController {
  constructor(
    private readonly rehearsals: RehearsalService,
    private readonly circles: CirclesService,
    private readonly runs: SweepsService,
    private readonly maps: MapsService,
    private readonly funnels: FunnelService,
    private readonly counted: RuleFiguresService,
    private readonly routing: RoutingService,
    private readonly bundles: BundlesService,
  ) {}

  @Handles('ruleFigures')
  figures() {
    return this.counted.figures();
  }

  @Handles('funnel')
  funnel(@SentHere() { query }: Sent<'funnel'>) {
    return this.funnels.funnel(query);
  }

  @Handles('circle')
  async circle(@SentHere() { params }: Sent<'circle'>) {
    return { circle: await this.circles.of(params.key) };
  }

  @Handles('letOn')
  letOn(@SentHere() { params }: Sent<'letOn'>, @CallerIs() caller: Caller) {
    return this.circles.letOn(params.key, callerRef(caller));
  }

  @Handles('sweeps')
  sweeps(@SentHere() { params }: Sent<'sweeps'>) {
    return this.runs.list('rule', params.key);
  }

  @Handles('sweep')
  sweep(@SentHere() { params }: Sent<'sweep'>, @CallerIs() caller: Caller) {
    return this.runs.start('rule', params.key, callerRef(caller));
  }

  @Handles('mapSweeps')
  mapSweeps(@SentHere() { params }: Sent<'mapSweeps'>) {
    return this.runs.list('map', params.key);
  }

  @Handles('sweepMap')
  sweepMap(@SentHere() { params }: Sent<'sweepMap'>, @CallerIs() caller: Caller) {
    return this.runs.start('map', params.key, callerRef(caller));
  }

  @Handles('mapValues')
  mapValues(@SentHere() { body }: Sent<'mapValues'>) {
    return this.maps.values(body);
  }

  @Handles('rehearseMap')
  async rehearseMap(@SentHere() { body }: Sent<'rehearseMap'>, @CallerIs() caller: Caller) {
    return withoutNames(await this.maps.rehearse(body.map, body.key), caller);
  }

  @Handles('rehearseRouting')
  rehearseRouting(@SentHere() { body }: Sent<'rehearseRouting'>) {
    return this.routing.rehearse(body.routing, body.key, body.who);
  }

  @Handles('rehearseBundle')
  async rehearseBundle(@SentHere() { params, body }: Sent<'rehearseBundle'>, @CallerIs() caller: Caller) {
    return withoutNames(await this.bundles.rehearse(params.key, body), caller);
  }

  @Handles('bundleSweeps')
  bundleSweeps(@SentHere() { params }: Sent<'bundleSweeps'>) {
    return this.runs.list('bundle', params.key);
  }

  @Handles('sweepBundle')
  sweepBundle(@SentHere() { params, body }: Sent<'sweepBundle'>, @CallerIs() caller: Caller) {
    return this.runs.start('bundle', params.key, callerRef(caller), (sql, compiled, moment) =>
      this.bundles.candidates(sql, compiled, body, moment),
    );
  }

  @Handles('cancelSweep')
  cancelSweep(@SentHere() { params }: Sent<'cancelSweep'>, @CallerIs() caller: Caller) {
    return this.runs.cancel(params.id, callerRef(caller));
  }

  @Handles('rehearse')
  async rehearse(@SentHere() { body }: Sent<'rehearse'>, @CallerIs() caller: Caller, @Res({ passthrough: true }) response: Response) {
    const waited = new AbortController();
    response.once('close', () => waited.abort());
    return withoutNames(await this.rehearsals.rehearse(body.rule, body.key, body.all, waited.signal), caller);
  }
}

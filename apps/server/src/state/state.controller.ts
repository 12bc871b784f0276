import { Controller, Get, Inject, Req, Res } from '@nestjs/common';
import { ApiOperation, ApiTags } from '@nestjs/swagger';
import type { StateView } from '@euphonos/contracts';
import type { Request, Response } from 'express';
import { SERVER_CONFIG, type ServerConfig } from '../config.js';
import { AppProblem } from '../problems/app-problem.js';
import { MetricsService } from './metrics.service.js';
import { StateService } from './state.service.js';
import { Anybody, Owners } from '../rights/right.js';

/** From this machine itself, and not by way of a proxy on it. */
const isLocal = ({ socket, headers }: Request): boolean =>
  /^(::ffff:)?127\.|^::1$/.test(socket.remoteAddress ?? '') && !headers['x-forwarded-for'] && !headers['forwarded'];

@ApiTags('state')
@Controller()
export class StateController {
  constructor(
    private readonly states: StateService,
    private readonly metrics: MetricsService,
    @Inject(SERVER_CONFIG) private readonly config: ServerConfig,
  ) {}

  @Get('api/state')
  @Owners()
  @ApiOperation({ summary: 'How the server is: work, room, versions, last backup.' })
  state(): Promise<StateView> {
    return this.states.state();
  }

  @Get('health')
  @Anybody()
  @ApiOperation({ summary: '200 when the database can be reached and the store takes files, else 503.' })
  async health(@Res() response: Response): Promise<void> {
    const health = await this.states.health();
    response
      .status(health.healthy ? 200 : 503)
      .setHeader('cache-control', 'no-store')
      .json(health);
  }

  @Get('metrics')
  @Anybody()
  @ApiOperation({ summary: 'Figures in the text format of Prometheus; for this machine alone, unless EUPHONOS_METRICS=all.' })
  async figures(@Req() request: Request, @Res() response: Response): Promise<void> {
    if (!this.config.metricsForAll && !isLocal(request))
      throw new AppProblem(403, 'metrics-local', 'Figures are given to this machine alone. EUPHONOS_METRICS=all gives them to everybody.');
    response.setHeader('content-type', this.metrics.contentType).send(await this.metrics.text());
  }
}

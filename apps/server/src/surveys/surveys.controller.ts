import { Controller, Get, Param, ParseUUIDPipe, Post } from '@nestjs/common';
import { ApiOperation, ApiTags } from '@nestjs/swagger';
import type { SurveyView } from '@euphonos/contracts';
import { JobsService } from '../jobs/jobs.service.js';
import { SurveysService } from './surveys.service.js';
import { Changes, Hears } from '../rights/right.js';

@ApiTags('surveys')
@Controller('api/recordings/:id/survey')
export class SurveysController {
  constructor(
    private readonly surveys: SurveysService,
    private readonly jobs: JobsService,
  ) {}

  @Get()
  @Hears('recording')
  @ApiOperation({ summary: 'What is wrong with a recording, in the order of mending; started when there is no survey yet.' })
  find(@Param('id', ParseUUIDPipe) id: string): Promise<SurveyView> {
    return this.surveys.of(id);
  }

  @Post()
  @Changes('recording')
  @ApiOperation({ summary: 'Surveys it again after a survey that failed or was cancelled.' })
  again(@Param('id', ParseUUIDPipe) id: string): Promise<SurveyView> {
    return this.surveys.of(id, true);
  }

  @Post('cancel')
  @Changes('recording')
  async cancel(@Param('id', ParseUUIDPipe) id: string): Promise<SurveyView> {
    await this.jobs.cancel((await this.surveys.of(id)).job.id);
    return this.surveys.of(id);
  }
}

import { Controller, Get, Param, ParseUUIDPipe, Res } from '@nestjs/common';
import { ApiOperation, ApiTags } from '@nestjs/swagger';
import { reportAsHtml, type Report } from '@euphonos/engine';
import { htmlAsPdf } from '@euphonos/media';
import type { Response } from 'express';
import { ReportsService } from './reports.service.js';
import { Hears } from '../rights/right.js';

@ApiTags('reports')
@Controller('api/renders/:id')
export class ReportsController {
  constructor(private readonly reports: ReportsService) {}

  @Get('report.json')
  @Hears('render')
  @ApiOperation({ summary: 'What was received, found, done and measured of a delivery.' })
  json(@Param('id', ParseUUIDPipe) id: string): Promise<Report> {
    return this.reports.of(id);
  }

  @Get('report.html')
  @Hears('render')
  @ApiOperation({ summary: 'The same as one page that needs nothing else.' })
  async html(@Param('id', ParseUUIDPipe) id: string, @Res() response: Response): Promise<void> {
    const report = await this.reports.of(id);
    response.type('text/html').attachment(`${report.title}, report.html`).send(reportAsHtml(report));
  }

  @Get('report.pdf')
  @Hears('render')
  @ApiOperation({ summary: 'The same on paper, printed by Chromium.' })
  async pdf(@Param('id', ParseUUIDPipe) id: string, @Res() response: Response): Promise<void> {
    const report = await this.reports.of(id);
    response
      .type('application/pdf')
      .attachment(`${report.title}, report.pdf`)
      .send(await htmlAsPdf(reportAsHtml(report)));
  }
}

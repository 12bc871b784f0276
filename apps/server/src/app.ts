import 'reflect-metadata';
import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { ValidationPipe } from '@nestjs/common';
import { NestFactory } from '@nestjs/core';
import type { NestExpressApplication } from '@nestjs/platform-express';
import { DocumentBuilder, SwaggerModule } from '@nestjs/swagger';
import express, { type NextFunction, type Request, type Response } from 'express';
import helmet from 'helmet';
import { AppModule } from './app.module.js';
import type { ServerConfig } from './config.js';
import { door } from './door.js';
import { jsonBodies } from './json-bodies.js';
import { UploadsService } from './uploads/uploads.service.js';
import { SignInService } from './people/sign-in.service.js';
import { asking } from './rights/asking.js';
import { MetricsService } from './state/metrics.service.js';
import { requestLog } from './state/request-log.js';
import { ProblemFilter } from './problems/problem.filter.js';

const A_YEAR_SECONDS = 365 * 24 * 3600;

/** The page for every path that is not the API's: its own paths are resolved in the browser. */
function servePage(app: NestExpressApplication, folder: string): void {
  app.use(
    express.static(folder, {
      index: false,
      immutable: true,
      maxAge: '1y',
      setHeaders: (response, path) => path.endsWith('.html') && response.setHeader('cache-control', 'no-cache'),
    }),
  );
  app.use((request: Request, response: Response, next: NextFunction) => {
    if (request.method !== 'GET' || /^\/(api|health$|metrics$)/.test(request.path)) next();
    else response.setHeader('cache-control', 'no-cache').sendFile(join(folder, 'index.html'), { dotfiles: 'allow' });
  });
}

/** The whole server, not yet listening. */
export async function createApp(config: ServerConfig): Promise<NestExpressApplication> {
  const app = await NestFactory.create<NestExpressApplication>(AppModule.with(config), {
    logger: false,
    bodyParser: false,
    abortOnError: false,
    forceCloseConnections: true,
  });
  app.use(requestLog(app.get(MetricsService)));
  if (config.shared) app.set('trust proxy', config.proxies.split(','));
  app.use(door(config.hosts));
  app.use(
    helmet({
      contentSecurityPolicy: {
        directives: {
          'script-src': ["'self'", "'wasm-unsafe-eval'"],
          'style-src': ["'self'", "'unsafe-inline'"],
          'worker-src': ["'self'", 'blob:'],
          'upgrade-insecure-requests': null,
        },
      },
      strictTransportSecurity: config.secureCookies ? { maxAge: A_YEAR_SECONDS, includeSubDomains: false } : false,
    }),
  );
  const signIns = app.get(SignInService);
  app.use(asking(config, (secret) => signIns.find(secret)));
  app.use(app.get(UploadsService).handle);
  app.use(jsonBodies);
  app.useGlobalPipes(new ValidationPipe({ whitelist: true, forbidNonWhitelisted: true, transform: true }));
  app.useGlobalFilters(new ProblemFilter());
  app.enableShutdownHooks();
  const description = new DocumentBuilder()
    .setTitle('Euphonos')
    .setDescription('Sessions, recordings and renders of speech cleanup.')
    .build();
  SwaggerModule.setup('api/docs', app, SwaggerModule.createDocument(app, description));
  if (config.pageFolder && existsSync(config.pageFolder)) servePage(app, config.pageFolder);
  return app;
}

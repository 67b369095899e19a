import 'reflect-metadata';
import { randomUUID } from 'node:crypto';
import { existsSync } from 'node:fs';
import { type Server } from 'node:http';
import { join } from 'node:path';
import { type INestApplication } from '@nestjs/common';
import { NestFactory } from '@nestjs/core';
import { type NestExpressApplication } from '@nestjs/platform-express';
import cookieParser from 'cookie-parser';
import express, { type NextFunction, type Request, type Response } from 'express';
import helmet from 'helmet';
import pino, { type Logger } from 'pino';
import { commitsHere, countingCommits } from '../database/commits';
import { AppModule } from '../app.module';
import { MetricsService } from '../settings/metrics.service';
import { type AppOptions } from './app-options';
import { limitWholeBodies } from './uploads';
import { ProblemFilter } from './problem.filter';

const LARGEST_BODY = '4mb';
const NOT_THE_APP = /^\/((api|l|u|c|f|d|in|site)\/|(health|ready|metrics)$)/;

/** The whole server, not yet listening. */
export async function createApp(options: AppOptions): Promise<INestApplication> {
  const log = options.log ?? pino({ level: 'silent' });
  const app = await NestFactory.create<NestExpressApplication>(AppModule.with(options, log), { logger: false, bodyParser: false });
  app.use(
    helmet({
      contentSecurityPolicy: {
        useDefaults: false,
        directives: {
          defaultSrc: ["'self'"],
          scriptSrc: ["'self'"],
          // React and the libraries for floating parts set positions as style attributes; no style sheet may come from elsewhere.
          styleSrc: ["'self'"],
          styleSrcAttr: ["'unsafe-inline'"],
          imgSrc: ["'self'", 'data:'],
          fontSrc: ["'self'"],
          connectSrc: ["'self'"],
          objectSrc: ["'none'"],
          baseUri: ["'none'"],
          formAction: ["'self'"],
          frameAncestors: ["'none'"],
        },
      },
      referrerPolicy: { policy: 'same-origin' },
      // Served on loopback without TLS; a proxy in front sets this header.
      strictTransportSecurity: false,
    }),
  );
  app.use(withRequestId(log, () => app.get(MetricsService)));
  app.use((request: Request, response: Response, next: NextFunction) => {
    if (!/%00/i.test(request.url)) return next();
    response
      .status(400)
      .type('application/problem+json')
      .send(JSON.stringify({ type: 'about:blank', title: 'The address cannot be read.', status: 400, code: 'http.400' }));
  });
  (app.getHttpServer() as Server).requestTimeout = 0;
  app.use(limitWholeBodies);
  app.set('trust proxy', Number(process.env['SIEVE_PROXIES'] ?? 0));
  app.use(cookieParser());
  app.use('/site', express.text({ limit: '20kb', type: 'text/plain' }));
  // What is signed is signed as it was sent, byte by byte.
  app.use('/in', express.raw({ limit: '256kb', type: 'application/json' }));
  app.use(
    express.json({ limit: LARGEST_BODY, type: ['application/json', 'application/cloudevents+json', 'application/cloudevents-batch+json'] }),
  );
  // Only the pages that people reach from a message or a link send what was filled in so.
  app.use(['/u', '/c'], express.urlencoded({ extended: false, limit: '20kb' }));
  app.use('/f', express.urlencoded({ extended: false, limit: '500kb', parameterLimit: 500 }));
  app.useGlobalFilters(new ProblemFilter(log));
  if (options.webDirectory && existsSync(options.webDirectory)) serveInterface(app, options.webDirectory);
  app.enableShutdownHooks([]);
  await app.init();
  return app;
}

declare module 'express' {
  interface Request {
    /** by which a line in the log is found; the answer tells it */
    id?: string;
  }
}

/** Names each request and logs how it was answered, by its route: the address itself may name somebody. */
const withRequestId =
  (log: Logger, metrics: () => MetricsService) =>
  (request: Request, response: Response, next: NextFunction): void => {
    const began = performance.now();
    const id = randomUUID();
    request.id = id;
    response.setHeader('X-Request-Id', id);
    response.on('finish', () => {
      const { path = null } = (request.route as { path?: string } | undefined) ?? {};
      const tookMs = Math.round(performance.now() - began);
      if (path !== null) metrics().answered(request.method, path, response.statusCode, tookMs / 1_000);
      log.info(
        { request: id, method: request.method, route: path, status: response.statusCode, tookMs, commits: commitsHere() },
        'a request was answered',
      );
    });
    countingCommits(next);
  };

/** Serves the built interface: hashed files are cached for ever, every other address gets the one page. */
function serveInterface(app: NestExpressApplication, directory: string): void {
  app.use('/assets', express.static(join(directory, 'assets'), { immutable: true, maxAge: '365d', fallthrough: false }));
  app.use(
    express.static(directory, {
      index: false,
      maxAge: 0,
      setHeaders: (response, path) => {
        // This one is loaded by pages of other sites.
        if (path.endsWith('/site.js')) response.setHeader('Cross-Origin-Resource-Policy', 'cross-origin');
      },
    }),
  );
  app.use((request: Request, response: Response, next: NextFunction) => {
    if ((request.method !== 'GET' && request.method !== 'HEAD') || NOT_THE_APP.test(request.path)) return next();
    response.setHeader('Cache-Control', 'no-cache');
    response.sendFile(join(directory, 'index.html'));
  });
}

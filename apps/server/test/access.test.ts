import { RequestMethod } from '@nestjs/common';
import { MetadataScanner, Reflector } from '@nestjs/core';
import { METHOD_METADATA, PATH_METADATA } from '@nestjs/common/constants';
import { publicRoutes, ROUTES, type Route } from '@eager-sieve/contracts';
import request from 'supertest';
import { addPerson } from '../src/settings/people.service';
import { ACCESS } from '../src/settings/access';
import { TestServer } from './harness';

interface Handled {
  readonly method: number;
  readonly path: string;
  readonly access: string | undefined;
}

/** Every route of the running application, from the framework's own records. */
function routesOf(server: TestServer): Handled[] {
  const reflector = server.app.get(Reflector);
  const container = (
    server.app as unknown as {
      container: { getModules(): Map<string, { controllers: Map<unknown, { instance: object; metatype: new () => object }> }> };
    }
  ).container;
  return [...container.getModules().values()].flatMap((module) =>
    [...module.controllers.values()].flatMap(({ instance, metatype }) => {
      const prototype = Object.getPrototypeOf(instance) as object;
      return new MetadataScanner().getAllMethodNames(prototype).flatMap((name): Handled[] => {
        const handler = (prototype as Record<string, unknown>)[name] as (() => unknown) | undefined;
        if (!handler || Reflect.getMetadata(METHOD_METADATA, handler) === undefined) return [];
        const path = Reflect.getMetadata(PATH_METADATA, handler) as string;
        return [
          {
            method: Reflect.getMetadata(METHOD_METADATA, handler) as number,
            path,
            access: reflector.getAllAndOverride<string | undefined>(ACCESS, [handler, metatype]),
          },
        ];
      });
    }),
  );
}

describe('access', () => {
  let server: TestServer;
  beforeAll(async () => {
    server = await TestServer.start();
  });
  afterAll(() => server.stop());
  const http = () => request(server.app.getHttpServer());

  it('is declared by every route', () => {
    const routes = routesOf(server);
    expect(routes.length).toBeGreaterThan(40);
    expect(routes.filter((route) => route.access === undefined)).toEqual([]);
  });

  it('is public only where anyone may come', () => {
    const open = routesOf(server)
      .filter((route) => route.access === 'public')
      .map((route) => route.path);
    expect(open.sort()).toEqual([
      '/api/app/session',
      '/api/health/live',
      '/api/health/ready',
      '/api/public/forms/:key',
      '/api/public/forms/:key/answers',
      '/api/public/invitations/:token',
      '/api/public/invitations/:token',
      '/api/v1/openapi.json',
      '/c/:token',
      '/c/:token',
      '/d/:key',
      '/f/:key',
      '/f/:key',
      '/health',
      '/in/:token',
      '/l/:token',
      '/ready',
      '/site/forget',
      '/site/visit',
      '/u/:token',
      '/u/:token',
    ]);
  });

  it('of the public API is what its document says, and the document names every route', () => {
    const routes = routesOf(server).filter((route) => route.path.startsWith('/api/v1/') && route.access !== 'public');
    const documented = publicRoutes.map((route) => `${route.path.replaceAll(/\{(\w+)\}/g, ':$1')} ${route.requires}`);
    expect(routes.map((route) => `${route.path} ${route.access ?? ''}`).sort()).toEqual(documented.sort());
  });

  it('is handled for every row of the contracts, once', () => {
    const rows = Object.values<Route>(ROUTES).map(({ method, path }) => `${method} ${path.replaceAll(/\{(\w+)\}/g, ':$1')}`);
    expect(
      routesOf(server)
        .map((route) => `${RequestMethod[route.method]} ${route.path}`)
        .sort(),
    ).toEqual(rows.sort());
  });

  it('is refused without a session or key, and with a key that lacks the scope', async () => {
    await http().get('/api/v1/definitions').expect(401);
    await http().get('/api/v1/definitions').set('authorization', 'Bearer made-up').expect(401);
    await server.call('get', '/api/app/people').expect(403);
    await server.call('get', '/api/app/session').expect(403);
  });

  it('by a session wants the token of its page with every change', async () => {
    const { cookie, csrf } = await server.signIn();
    await http().get('/api/v1/definitions').set('cookie', cookie).expect(200);
    await http().put('/api/v1/definitions').set('cookie', cookie).send({}).expect(403);
    await http().put('/api/v1/definitions').set('cookie', cookie).set('x-csrf-token', csrf).send({}).expect(200);
  });

  it('ends everywhere when someone signs out', async () => {
    const [first, second] = [await server.signIn(), await server.signIn()];
    await http().delete('/api/app/session').set('cookie', first.cookie).set('x-csrf-token', first.csrf).expect(204);
    await http().get('/api/app/session').set('cookie', second.cookie).expect(401);
  });

  it('of a viewer is to look and not to touch', async () => {
    await server.database.transaction((sql) =>
      addPerson(sql, { email: 'vera@test.example', name: 'Vera', role: 'viewer', password: 'another long password' }, Date.now()),
    );
    const { cookie, csrf } = await server.signIn({ email: 'vera@test.example', password: 'another long password' });
    const as = (test: request.Test) => test.set('cookie', cookie).set('x-csrf-token', csrf);
    await as(http().get('/api/v1/audiences')).expect(200);
    await as(http().put('/api/v1/definitions')).send({}).expect(403);
    await as(http().get('/api/app/keys')).expect(403);
    await as(http().post('/api/app/messages/x/send')).send({ expected: 0 }).expect(403);
  });

  it('to pages comes with a strict policy for their content', async () => {
    const { headers } = await http().get('/api/health/ready').expect(200);
    expect(headers['content-security-policy']).toContain("script-src 'self'");
    expect(headers['content-security-policy']).not.toContain("script-src 'self' 'unsafe");
    expect(headers['x-frame-options']).toBe('SAMEORIGIN');
    expect(headers['x-content-type-options']).toBe('nosniff');
  });
});

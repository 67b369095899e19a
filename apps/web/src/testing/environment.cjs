const { TestEnvironment } = require('jest-environment-jsdom');

/** What browsers and Node share and jsdom leaves out; and where the two would meet, as a request and what aborts it, Node's own. */
module.exports = class extends TestEnvironment {
  async setup() {
    await super.setup();
    for (const name of ['TextEncoder', 'TextDecoder', 'fetch', 'Request', 'Response', 'Headers', 'structuredClone'])
      this.global[name] ??= globalThis[name];
    for (const name of ['AbortController', 'AbortSignal']) this.global[name] = globalThis[name];
  }
};

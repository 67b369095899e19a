const { TestEnvironment } = require('jest-environment-jsdom');

/** jsdom leaves out what browsers and Node share; the application uses it. */
module.exports = class extends TestEnvironment {
  async setup() {
    await super.setup();
    for (const name of ['TextEncoder', 'TextDecoder', 'fetch', 'Request', 'Response', 'Headers', 'structuredClone'])
      this.global[name] ??= globalThis[name];
  }
};

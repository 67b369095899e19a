import '@testing-library/jest-dom';
import { configure } from '@testing-library/react';

// The first look at a page loads its code, which takes its time on a busy machine.
configure({ asyncUtilTimeout: 15_000 });
jest.setTimeout(60_000);

// jsdom lays nothing out: lists of which only what is in sight is drawn are told of a sight, and a dialog opens and closes.
Object.defineProperties(Element.prototype, { clientHeight: { get: () => 600 }, clientWidth: { get: () => 900 } });
Element.prototype.scrollIntoView = () => undefined;
Element.prototype.scrollTo = () => undefined;
globalThis.ResizeObserver ??= class {
  observe(): void {}
  unobserve(): void {}
  disconnect(): void {}
};
HTMLDialogElement.prototype.showModal ??= function (this: HTMLDialogElement) {
  this.open = true;
};
HTMLDialogElement.prototype.close ??= function (this: HTMLDialogElement) {
  this.open = false;
  this.dispatchEvent(new Event('close'));
};

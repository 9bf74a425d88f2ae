import "./language";
import { cleanup } from "@testing-library/react";
import { afterEach } from "vitest";

afterEach(cleanup);

// jsdom has no layout; the components only ask whether it exists.
window.matchMedia ??= (query: string) =>
  ({
    matches: false,
    media: query,
    addEventListener() {},
    removeEventListener() {},
  }) as unknown as MediaQueryList;

window.ResizeObserver ??= class {
  observe() {}
  unobserve() {}
  disconnect() {}
};

Element.prototype.scrollIntoView ??= () => {};

// jsdom knows no fonts, whose loading a text area that grows waits for. The test files share one document.
if (!("fonts" in document)) Object.defineProperty(document, "fonts", { value: new EventTarget() });

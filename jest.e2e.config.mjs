/** Tests of the real interface in headless Chromium; scripts/test.mjs starts the application for them. */
import base from "./jest.config.mjs";

export default { ...base, roots: ["<rootDir>/e2e/src"], testMatch: ["**/*.e2e.ts"], testTimeout: 600_000, maxWorkers: 1 };

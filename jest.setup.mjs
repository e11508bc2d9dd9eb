// Property tests try the same cases each time, so that a failure is found where it was made. FC_SEED=… tries others.
import fc from "fast-check";

fc.configureGlobal({ seed: Number(process.env.FC_SEED ?? 2026) });

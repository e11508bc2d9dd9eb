import type { Page } from "puppeteer-core";
import { PATIENCE, until } from "./browser";

/** With RUBBLE_FULL=1 journeys are done in full size, as docs/journeys.md tells of them; in smaller numbers otherwise. */
export const FULL = process.env.RUBBLE_FULL === "1";
/** The longest that a build or a run is waited for. ms */
export const LONG = FULL ? 1_800_000 : PATIENCE;

export const untilBuilt = (page: Page): Promise<void> => until(page, (s) => s.building === null && s.save.kind === "saved", LONG);

/** A picture of what has come of it, in full size only, in the folder RUBBLE_PICTURES. */
export async function keepPicture(page: Page, name: string): Promise<void> {
	if (FULL) await page.screenshot({ path: `${process.env.RUBBLE_PICTURES ?? "."}/${name}.png` });
}

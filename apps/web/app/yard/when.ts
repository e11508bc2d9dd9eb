// Made once: making one takes longer than a hundred dates.
const TIME = new Intl.DateTimeFormat("en", { hour: "2-digit", minute: "2-digit", hour12: false });
const WEEKDAY = new Intl.DateTimeFormat("en", { weekday: "short" });
const DATE = new Intl.DateTimeFormat("en", { day: "numeric", month: "short", year: "numeric" });

/** `12:04` today, `yesterday`, a weekday within a week, else the date. */
export function when(iso: string, now = new Date()): string {
	const at = new Date(iso);
	const day = (date: Date) => Math.floor((date.getTime() - date.getTimezoneOffset() * 60_000) / 86_400_000);
	const days = day(now) - day(at);
	if (days === 0) return TIME.format(at);
	if (days === 1) return "yesterday";
	if (days < 7) return WEEKDAY.format(at);
	return DATE.format(at);
}

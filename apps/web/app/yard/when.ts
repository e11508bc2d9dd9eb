/** `12:04` today, `yesterday`, a weekday within a week, else the date. */
export function when(iso: string, now = new Date()): string {
	const at = new Date(iso);
	const day = (date: Date) => Math.floor((date.getTime() - date.getTimezoneOffset() * 60_000) / 86_400_000);
	const days = day(now) - day(at);
	if (days === 0) return at.toLocaleTimeString("en", { hour: "2-digit", minute: "2-digit", hour12: false });
	if (days === 1) return "yesterday";
	if (days < 7) return at.toLocaleDateString("en", { weekday: "short" });
	return at.toLocaleDateString("en", { day: "numeric", month: "short", year: "numeric" });
}

import { onJobs } from "~/data/jobEvents.server";
import { endedWanted, listJobs } from "~/data/jobs.server";
import { answering } from "~/data/requests.server";
import type { Route } from "./+types/api.jobs.events";

/** Events come at most so often. ms */
const PACE = 300;
const ALIVE = 20_000;

/** All jobs, whenever some have changed (server-sent events). */
export const loader = answering(({ request }: Route.LoaderArgs) => {
	const encoder = new TextEncoder();
	let close: () => void = () => undefined;
	const stream = new ReadableStream({
		start(controller) {
			let timer: ReturnType<typeof setTimeout> | undefined;
			const write = (text: string) => {
				try {
					controller.enqueue(encoder.encode(text));
				} catch {
					close();
				}
			};
			const tell = () => {
				timer ??= setTimeout(async () => {
					timer = undefined;
					const list = await listJobs(endedWanted(request)).catch(() => undefined);
					if (list) write(`data: ${JSON.stringify(list)}\n\n`);
				}, PACE);
			};
			const stop = onJobs(tell);
			const alive = setInterval(() => write(": alive\n\n"), ALIVE);
			close = () => {
				stop();
				clearTimeout(timer);
				clearInterval(alive);
			};
			request.signal.addEventListener("abort", () => {
				close();
				controller.close();
			});
			tell();
		},
		cancel: () => close(),
	});
	return new Response(stream, { headers: { "Content-Type": "text/event-stream", "Cache-Control": "no-store" } });
});

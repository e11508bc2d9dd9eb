import { PassThrough } from "node:stream";
import { createReadableStreamFromReadable } from "@react-router/node";
import { isbot } from "isbot";
import { type RenderToPipeableStreamOptions, renderToPipeableStream } from "react-dom/server";
import { type EntryContext, isRouteErrorResponse, ServerRouter } from "react-router";

const PATIENCE = 10_000; // ms

export default function handleRequest(request: Request, status: number, headers: Headers, router: EntryContext): Promise<Response> {
	const nonce = request.headers.get("x-nonce") ?? "";
	const whole = isbot(request.headers.get("user-agent") ?? "");
	const ready: keyof RenderToPipeableStreamOptions = whole ? "onAllReady" : "onShellReady";
	return new Promise((resolve, reject) => {
		let code = status;
		const { pipe, abort } = renderToPipeableStream(<ServerRouter context={router} url={request.url} nonce={nonce} />, {
			nonce,
			[ready]() {
				const body = new PassThrough();
				headers.set("Content-Type", "text/html");
				headers.set("Cache-Control", "no-store");
				resolve(new Response(createReadableStreamFromReadable(body), { headers, status: code }));
				pipe(body);
			},
			onShellError: reject,
			onError(error: unknown) {
				code = 500;
				console.error(error);
			},
		});
		setTimeout(abort, PATIENCE);
	});
}

/** What loaders and actions give to the page: as old as it is. */
export function handleDataRequest(response: Response): Response {
	if (!response.headers.has("Cache-Control")) response.headers.set("Cache-Control", "no-store");
	return response;
}

/** What is nobody's fault here (addresses that are none, pages that left meanwhile) is answered, and not worth a line in the log. */
export function handleError(error: unknown, { request }: { request: Request }): void {
	const isAnswer =
		error instanceof Response ||
		isRouteErrorResponse(error) ||
		/^No route matches|did not provide an `action`/.test(String((error as Error)?.message));
	if (!request.signal.aborted && !isAnswer) console.error(error);
}

import { randomBytes } from "node:crypto";
import { createRequestHandler } from "@react-router/express";
import compression from "compression";
import express, { type ErrorRequestHandler, type Express, type RequestHandler } from "express";
import helmet from "helmet";
import type { ServerBuild } from "react-router";
import { door } from "./door";

/** Security headers: nothing from elsewhere, scripts only with this answer's nonce, isolated so that memory can be shared. */
function security(development: boolean): RequestHandler {
	return (request, response, next) => {
		const nonce = randomBytes(16).toString("base64");
		// For the document, which puts it on its scripts; whatever a client sent under this name is overwritten.
		request.headers["x-nonce"] = nonce;
		helmet({
			contentSecurityPolicy: {
				useDefaults: false,
				directives: {
					defaultSrc: ["'self'"],
					baseUri: ["'self'"],
					formAction: ["'self'"],
					frameAncestors: ["'none'"],
					objectSrc: ["'none'"],
					scriptSrc: ["'self'", `'nonce-${nonce}'`, "'wasm-unsafe-eval'"],
					scriptSrcAttr: ["'none'"],
					// Elements with styles need the nonce (the dialogs' library puts one in); attributes come with the first page's markup.
					styleSrc: development ? ["'self'", "'unsafe-inline'"] : ["'self'", `'nonce-${nonce}'`],
					styleSrcAttr: ["'unsafe-inline'"],
					fontSrc: ["'self'"],
					imgSrc: ["'self'", "data:", "blob:"],
					connectSrc: development ? ["'self'", "ws:", "data:"] : ["'self'", "data:"],
					workerSrc: ["'self'", "blob:"],
				},
			},
			crossOriginOpenerPolicy: { policy: "same-origin" },
			crossOriginEmbedderPolicy: { policy: "require-corp" },
			strictTransportSecurity: false,
		})(request, response, next);
	};
}

/** What goes wrong before a route is found: addresses that cannot be decoded, answers that break off. */
const lastResort: ErrorRequestHandler = (error, _, response, next) => {
	if (response.headersSent) return next(error);
	const status = typeof error?.status === "number" && error.status >= 400 && error.status < 600 ? error.status : 500;
	if (status >= 500) console.error(error);
	response
		.status(status)
		.set("Cache-Control", "no-store")
		.json({ message: status < 500 ? "The address cannot be read." : "The server failed at this; what it says of it stands in its log." });
};

/** Without what follows it (`; charset=…`, which the framework adds to some). */
const typeOf = (header: unknown): string => String(header).split(";")[0]!.trim();

interface Options {
	readonly host: string;
	readonly passphrase: string;
	readonly development?: boolean;
}

export function makeApp(
	build: ServerBuild | (() => Promise<ServerBuild>),
	before: (app: Express) => void,
	{ host, passphrase, development = false }: Options,
): Express {
	const app = express();
	app.disable("x-powered-by");
	app.use(security(development), door({ host, passphrase }));
	// Frames and meshes are compressed already, or not worth it on loopback.
	app.use(
		compression({
			filter: (request, response) =>
				// Events must go out one by one.
				!["application/octet-stream", "text/event-stream", "application/zip"].includes(typeOf(response.getHeader("content-type"))) &&
				compression.filter(request, response),
		}),
	);
	// Answers are compressed as a whole. Flushed after every chunk, as the router's handler asks where it can, they come out larger,
	// and a slow reader piles up flushes that wait for it.
	app.use((_request, response, next) => {
		Object.assign(response, { flush: undefined });
		next();
	});
	before(app);
	app.all("/{*splat}", createRequestHandler({ build }));
	app.use(lastResort);
	return app;
}

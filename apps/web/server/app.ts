import { randomBytes } from "node:crypto";
import { createRequestHandler } from "@react-router/express";
import compression from "compression";
import express, { type Express, type RequestHandler } from "express";
import helmet from "helmet";
import type { ServerBuild } from "react-router";

/** Security headers: nothing from elsewhere, scripts only with this answer's nonce, isolated so that memory can be shared. */
function security(development: boolean): RequestHandler {
	return (request, response, next) => {
		const nonce = randomBytes(16).toString("base64");
		// For the document, which puts it on its scripts; whatever a client sent under this name is overwritten.
		request.headers["x-nonce"] = nonce;
		helmet({
			contentSecurityPolicy: {
				directives: {
					defaultSrc: ["'self'"],
					scriptSrc: ["'self'", `'nonce-${nonce}'`, "'wasm-unsafe-eval'"],
					styleSrc: ["'self'", "'unsafe-inline'"],
					imgSrc: ["'self'", "data:", "blob:"],
					connectSrc: development ? ["'self'", "ws:", "data:"] : ["'self'", "data:"],
					workerSrc: ["'self'", "blob:"],
					frameAncestors: ["'none'"],
					upgradeInsecureRequests: null,
				},
			},
			crossOriginOpenerPolicy: { policy: "same-origin" },
			crossOriginEmbedderPolicy: { policy: "require-corp" },
			strictTransportSecurity: false,
		})(request, response, next);
	};
}

/** Writes come from our own pages only. */
const sameOrigin: RequestHandler = (request, response, next) => {
	const site = request.get("sec-fetch-site");
	const reads = request.method === "GET" || request.method === "HEAD";
	if (reads || site === undefined || site === "same-origin" || site === "none") next();
	else response.status(403).send("This request came from another site.");
};

export function makeApp(build: ServerBuild | (() => Promise<ServerBuild>), before: (app: Express) => void, development = false): Express {
	const app = express();
	app.disable("x-powered-by");
	app.use(security(development), sameOrigin);
	// Frames and meshes are compressed already, or not worth it on loopback.
	app.use(
		compression({
			filter: (request, response) =>
				// Events must go out one by one.
				!["application/octet-stream", "text/event-stream"].includes(String(response.getHeader("content-type"))) &&
				compression.filter(request, response),
		}),
	);
	before(app);
	app.all("/{*splat}", createRequestHandler({ build }));
	return app;
}

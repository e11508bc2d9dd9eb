import { timingSafeEqual } from "node:crypto";
import { hashText } from "@rubble/core/common";
import type { RequestHandler } from "express";

/** Addresses that only this machine reaches. */
export const isLoopback = (host: string): boolean => host === "localhost" || host === "::1" || /^127(\.\d{1,3}){3}$/.test(host);

const LEAST_PASSPHRASE = 8;

/** Why the application may not listen there; undefined where it may. */
export function listeningProblem(host: string, passphrase: string): string | undefined {
	if (passphrase !== "" && passphrase.length < LEAST_PASSPHRASE)
		return `RUBBLE_PASSPHRASE must have ${LEAST_PASSPHRASE} characters at least.`;
	if (isLoopback(host) || passphrase !== "") return undefined;
	return `${host} can be reached from other machines, and everything here could be read and changed by whoever gets there. Set RUBBLE_PASSPHRASE=… (every visitor is asked for it), or listen on 127.0.0.1.`;
}

/** `[::1]:4180` → `::1`; undefined where it is no host. */
function nameOf(host: string | undefined): string | undefined {
	try {
		return host === undefined ? undefined : new URL(`http://${host}`).hostname.replace(/^\[|\]$/g, "");
	} catch {
		return undefined;
	}
}

const refuse = (response: Parameters<RequestHandler>[1], status: number, message: string): void =>
	void response.status(status).set("Cache-Control", "no-store").json({ message });

/**
 * Who may come in. Names of hosts: pages of other sites can make a browser ask this machine under a name of theirs (DNS
 * rebinding), so that without a passphrase only names of this machine are answered. Origins: other sites' pages get nothing, and
 * change nothing.
 */
export function door({ host, passphrase }: { readonly host: string; readonly passphrase: string }): RequestHandler {
	const wanted = Buffer.from(hashText(passphrase));
	const isKnown = (name: string) => passphrase !== "" || isLoopback(name) || name === host;
	return (request, response, next) => {
		const name = nameOf(request.get("host"));
		if (name === undefined || !isKnown(name))
			return refuse(response, 421, "This is not the name of this machine; open the application under localhost.");
		const origin = request.get("origin");
		if (origin !== undefined && !isOwn(origin, request.get("host")!)) return refuse(response, 403, "This request came from another site.");
		const site = request.get("sec-fetch-site");
		const reads = request.method === "GET" || request.method === "HEAD";
		const follows = reads && request.get("sec-fetch-mode") === "navigate" && request.get("sec-fetch-dest") === "document";
		if (site !== undefined && site !== "same-origin" && site !== "none" && !follows)
			return refuse(response, 403, "This request came from another site.");
		if (passphrase === "" || knows(request.get("authorization"), wanted)) return next();
		response.set("WWW-Authenticate", 'Basic realm="Mighty Rubble", charset="UTF-8"');
		return refuse(response, 401, "The passphrase is needed; the name may be any.");
	};
}

function isOwn(origin: string, host: string): boolean {
	try {
		return new URL(origin).host === new URL(`http://${host}`).host;
	} catch {
		return false;
	}
}

/** Whether a Basic authorization (RFC 7617) holds the passphrase, under any name. Digests of equal length are compared in constant time. */
function knows(authorization: string | undefined, wanted: Buffer): boolean {
	const encoded = /^Basic ([A-Za-z0-9+/=]+)$/i.exec(authorization ?? "")?.[1];
	if (encoded === undefined) return false;
	const pair = Buffer.from(encoded, "base64").toString("utf8");
	return timingSafeEqual(Buffer.from(hashText(pair.slice(pair.indexOf(":") + 1))), wanted);
}

/** What the content policy lets styles and scripts of this page in by; libraries that put styles into the page are given it. */
export const pageNonce: string =
	typeof document === "undefined" ? "" : (document.querySelector<HTMLScriptElement>("script[nonce]")?.nonce ?? "");

import { setNonce } from "get-nonce";
import { useEffect } from "react";
import {
	isRouteErrorResponse,
	Link,
	Links,
	Meta,
	Outlet,
	Scripts,
	ScrollRestoration,
	type ShouldRevalidateFunctionArgs,
	useRouteLoaderData,
} from "react-router";
import { Toaster } from "sonner";
import { pageNonce } from "~/controls/nonce";
import type { Route } from "./+types/root";
import "./styles/app.css";

// Dialogs keep the page from scrolling by a style of their own, which the content policy lets in by the nonce of this page's scripts.
setNonce(pageNonce);

export function loader({ request }: Route.LoaderArgs) {
	const night = /(?:^|;\s*)theme=night/.test(request.headers.get("cookie") ?? "");
	return { theme: night ? ("night" as const) : ("light" as const), nonce: request.headers.get("x-nonce") ?? "" };
}

/** Only the theme changes what is loaded here. */
export const shouldRevalidate = ({ formAction }: ShouldRevalidateFunctionArgs) => formAction === "/theme";

export const meta: Route.MetaFunction = () => [{ title: "Mighty Rubble" }];
export const links: Route.LinksFunction = () => [{ rel: "icon", href: "/mark.svg", type: "image/svg+xml" }];

export function Layout({ children }: { children: React.ReactNode }) {
	const root = useRouteLoaderData<typeof loader>("root");
	// Browsers hide a script's nonce from the page: it must not be compared on hydration.
	const nonce = typeof document === "undefined" ? root?.nonce : "";
	return (
		<html lang="en" data-theme={root?.theme ?? "light"}>
			<head>
				<meta charSet="utf-8" />
				<meta name="viewport" content="width=device-width, initial-scale=1" />
				<Meta />
				<Links nonce={nonce} />
			</head>
			<body>
				<a
					href="#main"
					className="sr-only focus:not-sr-only focus:fixed focus:top-2 focus:left-2 focus:z-50 focus:rounded-md focus:bg-chalk focus:p-3"
				>
					Skip to the content
				</a>
				{children}
				<Toaster
					position="top-center"
					// In the view, under its chips: the timeline, the curves and the tools stay free.
					offset={{ top: 100 }}
					toastOptions={{ className: "toast" }}
					theme={root?.theme === "night" ? "dark" : "light"}
				/>
				<ScrollRestoration nonce={nonce} />
				<Scripts nonce={nonce} />
			</body>
		</html>
	);
}

export default function App() {
	return <Outlet />;
}

/** While the database is away the page is asked for again so often. ms */
const AGAIN = 3000;

const WRONG: Readonly<Record<number, readonly [title: string, text: string]>> = {
	404: [
		"This is not here",
		"The shot may have been deleted, or the address is mistyped. Deleted shots lie in the yard's trash for a month.",
	],
	503: ["The database does not answer", "Nothing that was saved is lost. This page asks again every few seconds."],
	500: [
		"Something broke that should not",
		"Your work is saved up to the last edit. Reload the page; if it happens again, open the shot from the yard.",
	],
};

export function ErrorBoundary({ error }: Route.ErrorBoundaryProps) {
	const status = isRouteErrorResponse(error) ? error.status : 500;
	const away = status === 503;
	useEffect(() => {
		if (!away) return;
		const again = setTimeout(() => window.location.reload(), AGAIN);
		return () => clearTimeout(again);
	}, [away]);
	const [title, text] = WRONG[status] ?? WRONG[500]!;
	return (
		<main id="main" className="mx-auto max-w-md p-12">
			<h1 className="text-xl font-semibold">{title}</h1>
			<p className="mt-2 text-slate">{text}</p>
			{import.meta.env.DEV && error instanceof Error && <pre className="mt-4 overflow-auto text-xs">{error.stack}</pre>}
			<Link to="/" className="button button-primary mt-6 inline-flex">
				To the yard
			</Link>
		</main>
	);
}

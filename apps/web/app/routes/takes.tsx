import { lazy, Suspense, useEffect, useState } from "react";
import { answering, refuse } from "~/data/requests.server";
import { loadShot } from "~/data/shots.server";
import { listTakes } from "~/data/takes.server";
import type { Route } from "./+types/takes";

const TakesBoard = lazy(() => import("~/takes/TakesBoard"));

export const loader = answering(async ({ params }: Route.LoaderArgs) => {
	const found = await loadShot(params.shot);
	if (!found) throw refuse(404, "The shot is not here.");
	return { name: found.shot.name, takes: await listTakes(params.shot) };
});

export const meta: Route.MetaFunction = ({ loaderData }) => [{ title: `Takes of ${loaderData?.name ?? "a shot"} · Mighty Rubble` }];

/** Pictures are drawn with WebGL and taken from the core's thread: it begins in the browser. */
export default function TakesPage({ loaderData, params }: Route.ComponentProps) {
	const [ready, setReady] = useState(false);
	useEffect(() => setReady(true), []);
	const waiting = (
		<div className="flex h-screen items-center justify-center text-slate" role="status">
			Opening the takes of {loaderData.name} …
		</div>
	);
	if (!ready) return waiting;
	return (
		<Suspense fallback={waiting}>
			<TakesBoard key={params.shot} shotId={params.shot} name={loaderData.name} first={loaderData.takes} />
		</Suspense>
	);
}

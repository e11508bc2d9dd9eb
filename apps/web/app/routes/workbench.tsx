import { lazy, Suspense, useEffect, useState } from "react";
import type { ShouldRevalidateFunctionArgs } from "react-router";
import { redirect } from "react-router";
import { answering, refuse } from "~/data/requests.server";
import { loadShot } from "~/data/shots.server";
import { isStage } from "~/workbench/stages";
import type { Route } from "./+types/workbench";

const Workbench = lazy(() => import("~/workbench/Workbench"));

export const loader = answering(async ({ params }: Route.LoaderArgs) => {
	if (!isStage(params.stage)) throw redirect(`/shots/${params.shot}/shape`);
	const found = await loadShot(params.shot);
	if (!found) throw refuse(404, "The shot is not here.");
	return found;
});

/** Stage and selection are the page's own business; only another shot is loaded anew. */
export const shouldRevalidate = ({ currentParams, nextParams }: ShouldRevalidateFunctionArgs) => currentParams.shot !== nextParams.shot;

export const meta: Route.MetaFunction = ({ loaderData }) => [{ title: `${loaderData?.shot.name ?? "Shot"} · Mighty Rubble` }];

/** The workbench needs a thread of its own and WebGL: it begins in the browser. */
export default function WorkbenchPage({ loaderData, params }: Route.ComponentProps) {
	const [ready, setReady] = useState(false);
	useEffect(() => setReady(true), []);
	const waiting = (
		<div className="flex h-screen items-center justify-center text-slate" role="status">
			Opening {loaderData.shot.name} …
		</div>
	);
	if (!ready || !isStage(params.stage)) return waiting;
	return (
		<Suspense fallback={waiting}>
			<Workbench
				key={params.shot}
				shotId={params.shot}
				stage={params.stage}
				shot={loaderData.shot}
				revision={loaderData.revision}
				savedAt={loaderData.updatedAt}
			/>
		</Suspense>
	);
}

import { Link } from "react-router";
import { answering, refuse } from "~/data/requests.server";
import { GUIDE } from "~/guide/pages";
import type { Route } from "./+types/guide";

export const loader = answering(({ params }: Route.LoaderArgs) => {
	const page = params.page ?? GUIDE[0]!.id;
	if (!GUIDE.some(({ id }) => id === page)) throw refuse(404, "There is no such page in the guide.");
	return { page };
});

export const meta: Route.MetaFunction = () => [{ title: "Guide · Mighty Rubble" }];

export default function GuidePage({ loaderData }: Route.ComponentProps) {
	const page = GUIDE.find(({ id }) => id === loaderData.page)!;
	return (
		<div className="mx-auto flex max-w-4xl gap-8 p-6">
			<nav aria-label="Guide" className="w-44 shrink-0">
				<Link to="/" className="mb-4 flex items-center gap-2 font-semibold">
					<img src="/mark.svg" alt="" width={22} height={22} /> To the yard
				</Link>
				<ul>
					{GUIDE.map(({ id, title }) => (
						<li key={id}>
							<Link
								to={`/guide/${id}`}
								aria-current={id === page.id ? "page" : undefined}
								className={`block rounded-md px-2.5 py-1.5 ${id === page.id ? "bg-kelp-wash font-semibold text-kelp" : "hover:bg-chalk"}`}
							>
								{title}
							</Link>
						</li>
					))}
				</ul>
			</nav>
			<main id="main" className="max-w-prose flex-1 rounded-md border border-line bg-chalk p-6">
				<h1 className="text-xl font-semibold">{page.title}</h1>
				{page.body.map((block) =>
					typeof block === "string" ? (
						<p key={block} className="mt-3 text-sm leading-relaxed">
							{block}
						</p>
					) : (
						<dl key={block[0]?.[0]} className="mt-3 grid grid-cols-[130px_1fr] gap-x-4 gap-y-1.5 text-sm">
							{block.map(([term, text]) => (
								<div key={term} className="contents">
									<dt className="font-semibold">{term}</dt>
									<dd>{text}</dd>
								</div>
							))}
						</dl>
					),
				)}
			</main>
		</div>
	);
}

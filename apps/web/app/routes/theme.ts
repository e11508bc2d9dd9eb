import { data } from "react-router";
import { object, string } from "yup";
import { answering, readForm, validate } from "~/data/requests.server";
import type { Route } from "./+types/theme";

export const action = answering(async ({ request }: Route.ActionArgs) => {
	const { theme } = validate(await readForm(request), object({ theme: string().oneOf(["light", "night"]).required() }));
	return data(null, { headers: { "Set-Cookie": `theme=${theme}; Path=/; Max-Age=31536000; SameSite=Lax` } });
});

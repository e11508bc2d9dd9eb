import { resolve } from "node:path";
import { createServer as createViteServer } from "vite";
import { migrate } from "../app/data/database.server";
import { seed } from "../app/data/seed.server";
import { makeApp } from "./app";

// For work on the application itself: expects DATABASE_URL, reloads on change.
const port = Number(process.env.PORT ?? 4181);
await migrate(resolve("app/data/migrations"));
await seed(true);
const vite = await createViteServer({ server: { middlewareMode: true } });
const app = makeApp(
	() => vite.ssrLoadModule("virtual:react-router/server-build") as never,
	(server) => server.use(vite.middlewares),
	{ host: "127.0.0.1", passphrase: "", development: true },
);
app.listen(port, "127.0.0.1", () => console.log(`http://localhost:${port}`));

import { index, type RouteConfig, route } from "@react-router/dev/routes";

export default [
	index("routes/yard.tsx"),
	route("shots/:shot/:stage", "routes/workbench.tsx"),
	route("guide/:page?", "routes/guide.tsx"),
	route("api/assets/:hash", "routes/api.assets.ts"),
	route("api/shots/:shot/patches", "routes/api.patches.ts"),
	route("api/shots/:shot/picture", "routes/api.picture.ts"),
	route("api/shots/:shot/take", "routes/api.take.ts"),
	route("api/takes/:take/chunks/:frame", "routes/api.chunks.ts"),
	route("api/shots", "routes/api.shots.ts"),
	route("api/shots/:shot", "routes/api.shot.ts"),
	route("api/presets", "routes/api.presets.ts"),
	route("theme", "routes/theme.ts"),
	route("health", "routes/health.ts"),
] satisfies RouteConfig;

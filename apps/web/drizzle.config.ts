import { defineConfig } from "drizzle-kit";

export default defineConfig({ dialect: "postgresql", schema: "./app/data/schema.ts", out: "./app/data/migrations" });

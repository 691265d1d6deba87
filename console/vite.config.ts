import react from "@vitejs/plugin-react";
import { compression, defineAlgorithm } from "vite-plugin-compression2";
import { defineConfig } from "vitest/config";
import { texts } from "./texts.ts";

// In development the pages come from here and everything else from a running
// service, by default the demo.
const service = process.env.KAVLO_URL ?? "http://127.0.0.1:8090";

export default defineConfig({
  // packed beside the files themselves, for the service to send as they are
  plugins: [
    texts(),
    react(),
    compression({
      include: /\.(js|css|svg)$/,
      threshold: 1000,
      algorithms: [defineAlgorithm("gzip", { level: 9 }), defineAlgorithm("brotliCompress")],
    }),
  ],
  server: { proxy: { "/api": service } },
  build: { chunkSizeWarningLimit: 1500 },
  test: {
    testTimeout: 30_000,
    // one for each core; it would leave one idle of two
    maxWorkers: "100%",
    environment: "jsdom",
    // see test-setup.ts, which gives each file what it must have of its own
    isolate: false,
    setupFiles: ["./test-setup.ts"],
    include: ["src/**/*.test.{ts,tsx}"],
  },
});

import type { NextConfig } from "next";

const config: NextConfig = {
  reactStrictMode: true,
  poweredByHeader: false,
  // Loaded as they are at run time: native bindings, WebAssembly files, and modules that must exist once.
  serverExternalPackages: ["pg", "pg-boss", "libpg-query", "pino", "sql-formatter", "unzipper"],
  devIndicators: false,
  // How long, in seconds, a page that was read ahead of a click may be shown; ui/basic/read-ahead reads it again then.
  experimental: { staleTimes: { static: 30 } },
  // What a browser asks for by itself, before it has read which icon the page has.
  redirects: () => Promise.resolve([{ source: "/favicon.ico", destination: "/icon.svg", permanent: true }]),
  // Types are checked by ./ravlen test; checking them again here would only make starting slower.
  typescript: { ignoreBuildErrors: true },
};

export default config;

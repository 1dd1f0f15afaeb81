// Copies scripts and fonts out of their packages, with their licences.
import { copyFileSync, mkdirSync } from "node:fs";

const out = "../src/lenskeep/web/static";
const files = {
  "htmx.org/dist/htmx.min.js": "vendor/htmx.min.js",
  "htmx.org/LICENSE": "vendor/htmx.LICENSE.txt",
  "@alpinejs/csp/dist/cdn.min.js": "vendor/alpine-csp.min.js",
  "@fontsource-variable/bricolage-grotesque/files/bricolage-grotesque-latin-wght-normal.woff2": "fonts/bricolage.woff2",
  "@fontsource-variable/bricolage-grotesque/LICENSE": "fonts/bricolage.LICENSE.txt",
  "@fontsource/atkinson-hyperlegible-next/files/atkinson-hyperlegible-next-latin-400-normal.woff2": "fonts/atkinson-400.woff2",
  "@fontsource/atkinson-hyperlegible-next/files/atkinson-hyperlegible-next-latin-600-normal.woff2": "fonts/atkinson-600.woff2",
  "@fontsource/atkinson-hyperlegible-next/LICENSE": "fonts/atkinson.LICENSE.txt",
  "@fontsource/atkinson-hyperlegible-mono/files/atkinson-hyperlegible-mono-latin-400-normal.woff2": "fonts/atkinson-mono-400.woff2",
  "@fontsource/atkinson-hyperlegible-mono/LICENSE": "fonts/atkinson-mono.LICENSE.txt",
  "@fontsource/eb-garamond/files/eb-garamond-latin-500-normal.woff2": "fonts/garamond.woff2",
  "@fontsource/eb-garamond/LICENSE": "fonts/garamond.LICENSE.txt",
  "@fontsource/oswald/files/oswald-latin-400-normal.woff2": "fonts/oswald.woff2",
  "@fontsource/oswald/LICENSE": "fonts/oswald.LICENSE.txt",
  "@fontsource/great-vibes/files/great-vibes-latin-400-normal.woff2": "fonts/vibes.woff2",
  "@fontsource/great-vibes/LICENSE": "fonts/vibes.LICENSE.txt",
};
for (const folder of ["vendor", "fonts"]) mkdirSync(`${out}/${folder}`, { recursive: true });
for (const [from, to] of Object.entries(files)) copyFileSync(`node_modules/${from}`, `${out}/${to}`);

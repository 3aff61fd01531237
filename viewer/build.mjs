// Bundles the viewer into inst/htmlwidgets/, or with --tests its unit tests into .tests/.
import { build } from "esbuild";
import { readdirSync, rmSync } from "node:fs";

if (process.argv.includes("--tests")) {
  rmSync(".tests", { recursive: true, force: true });
  await build({
    entryPoints: readdirSync("test")
      .filter((f) => f.endsWith(".test.ts"))
      .map((f) => `test/${f}`),
    outdir: ".tests",
    outExtension: { ".js": ".mjs" },
    bundle: true,
    format: "esm",
    platform: "node",
    packages: "external",
    sourcemap: "inline",
  });
} else {
  // Where the sources of a bundle are, and whose.
  const banner = "/* Ochre, MIT licence; bundled from viewer/src, with no code of others. */";
  const out = "../inst/htmlwidgets/lib/ochre";
  await build({
    entryPoints: {
      "ochre-view": "src/main.ts",
      "ochre-held": "src/held-map.ts",
      "ochre-sections": "src/sectioned.ts",
    },
    outdir: out,
    bundle: true,
    minify: true,
    format: "iife",
    target: ["es2020"],
    legalComments: "none",
    banner: { js: banner },
    charset: "utf8",
  });
  await build({
    entryPoints: { "ochre-view": "src/style.css" },
    outdir: out,
    bundle: true,
    minify: true,
    banner: { css: banner },
    charset: "utf8",
  });
}

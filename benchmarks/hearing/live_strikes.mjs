// Gives the looks of stdin to the interface's own meter of strikes (web/src/sound/strikes.ts), writes its strikes.
// In: a line of JSON (at_ms of every look, begin_ms, sample_rate, bins), then the spectra in decibel as 32-bit floats.
import { readFileSync, writeFileSync, mkdtempSync } from "node:fs";
import { createRequire } from "node:module";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { pathToFileURL } from "node:url";

const web = new URL("../../web/", import.meta.url);
const typescript = createRequire(web)("typescript");
const source = readFileSync(new URL("src/sound/strikes.ts", web), "utf-8");
const module = join(mkdtempSync(join(tmpdir(), "laptick-strikes-")), "strikes.mjs");
writeFileSync(
  module,
  typescript.transpileModule(source, { compilerOptions: { target: "es2022", module: "es2022" } }).outputText,
);
const { StrikeMeter, powerOf } = await import(pathToFileURL(module));

const input = readFileSync(0);
const end = input.indexOf(10);
const { at_ms, begin_ms, sample_rate, bins } = JSON.parse(input.subarray(0, end).toString());
const spectra = new Float32Array(input.buffer.slice(input.byteOffset + end + 1, input.byteOffset + input.length));
const meter = new StrikeMeter();
const strikes = [];
let hasBegun = false;
at_ms.forEach((at, look) => {
  if (!hasBegun && at >= begin_ms) {
    meter.begin();
    hasBegun = true;
  }
  meter.hear(at, powerOf(spectra.subarray(look * bins, (look + 1) * bins), sample_rate));
  if (hasBegun && meter.strikes.count > strikes.length) strikes.push(meter.strikes.last_ms);
});
process.stdout.write(JSON.stringify(strikes));

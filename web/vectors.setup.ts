/** Vectors of the fold are written by the core, whose fold the tests here are held against. */
import { execFileSync } from "node:child_process";
import { existsSync } from "node:fs";

const PYTHON = "../.acuthesis/venv/bin/python";
const WRITTEN = "../.acuthesis/vectors.json";
const COURSES = "80";

export default function setup(): void {
  if (process.env.ACUTHESIS_VECTORS) return; // written already
  if (!existsSync(PYTHON)) throw new Error("Run ./acuthesis test or ./acuthesis demo once: it installs the core.");
  execFileSync(PYTHON, ["-m", "acuthesis.stand_ins.vectors", WRITTEN, COURSES], { stdio: "inherit" });
}

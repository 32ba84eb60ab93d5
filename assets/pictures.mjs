// Fills the tokens into the picture styles, for SVG files that stand on their own.
import { readFileSync } from "node:fs";

const read = (name) => readFileSync(new URL(name, import.meta.url), "utf8");
const whole = (name) => read(name).replace(/@import "(.+?)";/g, (_, part) => whole(part));
const tokens = Object.fromEntries(
  [...read("tokens.css").matchAll(/(--[\w-]+):\s*([^;]+);/g)].map((m) => [m[1], m[2].trim()]),
);
const fill = (text) => text.replace(/var\((--[\w-]+)\)/g, (_, name) => fill(tokens[name]));
process.stdout.write(
  fill(whole("pictures.css"))
    .replace(/\/\*[\s\S]*?\*\//g, "")
    .replace(/\s+/g, " ")
    .trim() + "\n",
);

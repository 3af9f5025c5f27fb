// What a TTML file shows by a library of others: node imsc.js FILE -> [[from ms, to ms, [[text, region]]]]
const fs = require("fs");
// its parts without the one that draws, which wants a browser
const { fromXML } = require("imsc/src/main/js/doc.js");
const { generateISD } = require("imsc/src/main/js/isd.js");

const wrong = [];
const say = (kind) => (text) => { wrong.push(`${kind}: ${text}`); return false; };
const handler = { info: () => false, warn: () => false, error: say("error"), fatal: say("fatal") };
const doc = fromXML(fs.readFileSync(process.argv[2], "utf8"), handler);
const times = doc.getMediaTimeEvents();

function textOf(element) {
  if (element.kind === "br") return "\n";
  if (element.text !== undefined) return element.text;
  return (element.contents || []).map(textOf).join("");
}

function paragraphs(element, region, found) {
  if (element.kind === "p") {
    const text = textOf(element).split("\n").map((one) => one.trim()).join("\n").trim();
    if (text) found.push([text, region]);
  } else for (const child of element.contents || []) paragraphs(child, region, found);
  return found;
}

const shown = [];
times.forEach((at, nth) => {
  const scene = generateISD(doc, at, handler);
  const found = scene.contents.flatMap((region) => paragraphs(region, region.id || "", []));
  const until = nth + 1 < times.length ? Math.round(times[nth + 1] * 1000) : null;
  if (found.length) shown.push([Math.round(at * 1000), until, found]);
});
console.log(JSON.stringify({ shown, wrong }));

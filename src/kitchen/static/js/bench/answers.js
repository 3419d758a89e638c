// After every answer of the bench: curves, grips, undo, and the prices, which take longer and come after.
import { readCurves } from "./cursor.js";
import { nameGrips } from "./drag.js";
import { bench } from "./form.js";
import { remember } from "./undo.js";

const PRICES_AFTER_MS = 500;
let prices = 0;

function readBench(isPast) {
  readCurves();
  nameGrips();
  remember(isPast);
  clearTimeout(prices);
  document.getElementById("prices")?.classList.add("stale");
  prices = setTimeout(() => { if (bench()) htmx.trigger("#prices", "refresh"); }, PRICES_AFTER_MS);
}

document.addEventListener("DOMContentLoaded", () => { if (bench()) readBench(false); });
document.addEventListener("htmx:afterSwap", (event) => {
  if (event.target.id === "prices") event.target.classList.remove("stale");
  const isBench = event.target.id === "bench" || event.detail.target?.id === "bench";
  if (isBench) readBench(event.detail.requestConfig?.elt === document.body); // asked by the body: an undo
});
document.addEventListener("htmx:beforeRequest", (event) => {
  if (event.detail.elt.id === "bench") htmx.trigger(document.body, "htmx:abort"); // an undo that was overtaken
});

// When the server was last heard of; after a while without it, the line says so.
import { inKitchenTime, kitchenNow, timeOfDay } from "./clock.js";

const LOST_AFTER_MS = 8000;
let heardAt = Date.now();

export function markHeard(at = Date.now()) {
  heardAt = at;
}

document.addEventListener("htmx:afterSwap", () => markHeard());

setInterval(() => {
  const lost = document.getElementById("lost");
  if (!lost) return;
  const silent = Date.now() - heardAt;
  lost.hidden = silent < LOST_AFTER_MS || document.hidden;
  if (lost.hidden) return;
  lost.querySelector("[data-lost-since]").textContent = timeOfDay(kitchenNow() - inKitchenTime(silent));
}, 1000);

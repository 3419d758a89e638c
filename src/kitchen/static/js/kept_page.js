// The page as it stands is kept for a reload without the server, with the kitchen's clock; after signing out nothing is.
import { restoreClock, saveClock } from "./clock.js";
import { tick } from "./countdowns.js";
import { markHeard } from "./lost.js";
const KEEP_EVERY_MS = 8000;
const POLICY = [
  "default-src 'none'", "script-src 'self'", "style-src 'self'", "font-src 'self'", "img-src 'self' data:",
  "connect-src 'self'", "form-action 'self'", "manifest-src 'self'", "worker-src 'self'", "base-uri 'none'",
  "frame-ancestors 'none'",
].join("; ");
let keptAt = 0;

async function keepPage() {
  if (!("caches" in window) || !document.getElementById("board") || Date.now() - keptAt < KEEP_EVERY_MS) return;
  keptAt = Date.now();
  const copy = document.documentElement.cloneNode(true);
  copy.dataset.kept = String(Date.now());
  for (const gone of copy.querySelectorAll("#taps, .says, dialog")) gone.remove();
  for (const element of copy.querySelectorAll("[style]")) element.removeAttribute("style"); // the policy forbids them
  const html = `<!doctype html>\n${copy.outerHTML}`;
  const cache = await caches.open("ember-pages");
  const before = await cache.match(location.href);
  const policy = before?.headers.get("Content-Security-Policy") ?? POLICY;
  const headers = { "Content-Type": "text/html; charset=utf-8", "Content-Security-Policy": policy };
  await cache.put(location.href, new Response(html, { headers }));
}

document.addEventListener("htmx:afterSwap", (event) => {
  if (event.detail.xhr?.status !== 200) return;
  saveClock();
  keepPage();
});

document.addEventListener("DOMContentLoaded", () => {
  if (document.documentElement.dataset.kept) { // an old page: its clock is the one that was kept
    const savedAt = restoreClock();
    markHeard(Number(document.documentElement.dataset.kept) || (savedAt ?? Date.now()));
    tick();
  } else {
    saveClock();
  }
});

if ("serviceWorker" in navigator) {
  navigator.serviceWorker.register("/sw.js").then(() => navigator.serviceWorker.ready).then((ready) => {
    if (document.querySelector(".door-form")) ready.active.postMessage({ what: "forget" });
    const loaded = performance.getEntriesByType("resource").map((entry) => entry.name);
    const urls = loaded.filter((url) => url.includes("/static/"));
    ready.active.postMessage({ what: "keep", urls });
  }).catch(() => null); // a browser that allows none: the open page still keeps its taps
}

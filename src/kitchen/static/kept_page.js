// The page as it stands is kept for a reload without the server, with the kitchen's clock; after signing out nothing is.
"use strict";

const KEEP_EVERY_MS = 8000;
const POLICY = "default-src 'none'; script-src 'self'; style-src 'self'; font-src 'self'; img-src 'self' data:; connect-src 'self'; form-action 'self'; manifest-src 'self'; worker-src 'self'; base-uri 'none'; frame-ancestors 'none'";
let keptAt = 0;

function keepClock() {
  if (clock.server !== null) localStorage.setItem("ember-clock", JSON.stringify(clock));
}

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
  keepClock();
  keepPage();
});

document.addEventListener("DOMContentLoaded", () => {
  if (document.documentElement.dataset.kept) { // an old page: its clock is the one that was kept
    const kept = JSON.parse(localStorage.getItem("ember-clock") ?? "null");
    if (kept) Object.assign(clock, kept);
    heardAt = Number(document.documentElement.dataset.kept) || (kept?.local ?? Date.now());
    tick();
  } else {
    keepClock();
  }
});

if ("serviceWorker" in navigator) {
  navigator.serviceWorker.register("/sw.js").then(() => navigator.serviceWorker.ready).then((ready) => {
    if (document.querySelector(".door-form")) ready.active.postMessage({ what: "forget" });
    const urls = performance.getEntriesByType("resource").map((row) => row.name).filter((name) => name.includes("/static/"));
    ready.active.postMessage({ what: "keep", urls });
  }).catch(() => null); // a browser that allows none: the open page still keeps its taps
}

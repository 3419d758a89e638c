// Keeps the shell and the last state of the line: a reload without the server shows it, and its clocks go on.
"use strict";

const PAGES = "ember-pages";
const STATIC = "ember-static";
const ANSWER_WITHIN_MS = 5000;
const MOST_PAGES = 30;
const KEPT_PATHS = [/^\/line\//, /^\/plans\/[\w-]+\/$/];

self.addEventListener("install", () => self.skipWaiting());
self.addEventListener("activate", (event) => event.waitUntil(self.clients.claim()));

self.addEventListener("message", (event) => {
  const { what, urls } = event.data ?? {};
  if (what === "keep") event.waitUntil(keepAll(urls));
  if (what === "forget") event.waitUntil(caches.delete(PAGES));
});

async function keepAll(urls) {
  const cache = await caches.open(STATIC);
  await Promise.all(urls.map(async (url) => {
    if (!(await cache.match(url))) await cache.add(url).catch(() => null);
  }));
}

self.addEventListener("fetch", (event) => {
  const { request } = event;
  const url = new URL(request.url);
  if (request.method !== "GET" || url.origin !== self.location.origin) return;
  if (url.pathname.startsWith("/static/")) event.respondWith(fromStatic(request));
  else if (request.mode === "navigate" && KEPT_PATHS.some((path) => path.test(url.pathname))) event.respondWith(page(request));
});

async function fromStatic(request) {
  const cache = await caches.open(STATIC);
  const kept = await cache.match(request);
  const fresh = fetch(request).then((answer) => {
    if (answer.ok) cache.put(request, answer.clone());
    return answer;
  });
  if (!kept) return fresh;
  fresh.catch(() => null);
  return kept;
}

async function page(request) {
  const cache = await caches.open(PAGES);
  const asked = fetch(request).then((answer) => keepPage(cache, request, answer));
  asked.catch(() => null); // where the kept page was shown meanwhile
  const late = new Promise((resolve) => setTimeout(resolve, ANSWER_WITHIN_MS));
  try {
    const answer = await Promise.race([asked, late]);
    if (answer && answer.status < 500) return answer;
    const kept = await cache.match(request.url);
    return kept ? asKept(kept) : answer ?? await asked;
  } catch (error) {
    const kept = (await cache.match(request.url)) ?? (await cache.match(new URL("/line/", self.location.origin).href));
    if (kept) return asKept(kept);
    throw error;
  }
}

async function keepPage(cache, request, answer) {
  if (answer.ok && !answer.redirected) {
    await cache.put(request.url, answer.clone());
    for (const old of (await cache.keys()).slice(0, -MOST_PAGES)) await cache.delete(old);
  }
  return answer;
}

// Marked as old, so that the page does not take its clock for the kitchen's.
async function asKept(answer) {
  const text = await answer.text();
  const headers = new Headers(answer.headers);
  for (const name of ["Content-Encoding", "Content-Length"]) headers.delete(name);
  return new Response(text.includes("data-kept") ? text : text.replace("<html ", '<html data-kept="0" '), { headers });
}

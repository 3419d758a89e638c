// The bench without the server: it says so at the first change, and keeps what was typed on the device until it can save.
import { timeOfDay } from "../clock.js";
import { bench } from "./form.js";
const TRY_AGAIN_MS = 3000;
const HEALTH_WITHIN_MS = 4000;
const draft = { key: `ember-bench:${location.pathname}`, isOffline: false, mayLeave: false };

const NOT_KEPT = ["csrfmiddlewaretoken", "token", "start_token"];
const isKept = ([name, value]) => !NOT_KEPT.includes(name) && typeof value === "string";
const fieldsNow = () => [...new FormData(bench())].filter(isKept);
const keptDraft = () => JSON.parse(localStorage.getItem(draft.key) ?? "null");
const dropDraft = () => localStorage.removeItem(draft.key);

function keepDraft() {
  const { at } = keptDraft() ?? {};
  localStorage.setItem(draft.key, JSON.stringify({ at: draft.isOffline && at ? at : Date.now(), fields: fieldsNow() }));
}

async function isThere() {
  try {
    return (await fetch("/healthz", { cache: "no-store", signal: AbortSignal.timeout(HEALTH_WITHIN_MS) })).ok;
  } catch {
    return false;
  }
}

function banner(text, ...buttons) {
  let box = document.getElementById("bench-kept");
  if (!text) { box?.remove(); return; }
  if (!box) {
    box = document.createElement("section");
    box.id = "bench-kept";
    box.className = "bench-kept";
    box.setAttribute("role", "status");
    bench().before(box);
  }
  const words = document.createElement("p");
  words.textContent = text;
  box.replaceChildren(words, ...buttons);
}

function button(words, look, work) {
  const made = document.createElement("button");
  made.type = "button";
  made.className = look;
  made.textContent = words;
  made.addEventListener("click", work);
  return made;
}

function offline() {
  keepDraft();
  draft.isOffline = true;
  banner("Offline: what you type is saved on this device and sent when the server is back.");
}

const isOfBench = (event) => event.detail.requestConfig.target?.id === "bench";
// Not by a status of 0: a request that was dropped for a newer one has it too.
for (const lost of ["htmx:sendError", "htmx:timeout"]) {
  document.addEventListener(lost, (event) => { if (isOfBench(event)) offline(); });
}
document.addEventListener("htmx:afterRequest", (event) => {
  const { status } = event.detail.xhr;
  if (!isOfBench(event) || !draft.isOffline || status === 0 || status >= 500) return;
  draft.isOffline = false;
  keepDraft(); // until it was saved
  banner("You are back online. Save the plan now.");
});

document.addEventListener("input", (event) => {
  if (draft.isOffline && event.target.closest("#bench")) keepDraft();
}, true);

setInterval(async () => {
  if (draft.isOffline && bench() && await isThere()) bench().dispatchEvent(new Event("change", { bubbles: true }));
}, TRY_AGAIN_MS);

// Keep and Send leave the page: only once the server is there, so that nothing is lost to a browser's error page.
document.addEventListener("submit", (event) => {
  if (event.target.id !== "bench" || event.defaultPrevented) return;
  if (draft.mayLeave) { draft.mayLeave = false; return; }
  event.preventDefault();
  event.stopImmediatePropagation();
  const { submitter } = event;
  isThere().then((there) => {
    if (!there) { offline(); return; }
    sessionStorage.setItem("ember-bench-sent", draft.key);
    draft.mayLeave = true;
    bench().requestSubmit(submitter);
  });
}, true);

document.addEventListener("DOMContentLoaded", () => {
  const sent = sessionStorage.getItem("ember-bench-sent");
  if (sent && !document.querySelector(".problem")) localStorage.removeItem(sent);
  sessionStorage.removeItem("ember-bench-sent");
  const kept = bench() && keptDraft();
  if (!kept) return;
  if (JSON.stringify(kept.fields) === JSON.stringify(fieldsNow())) { dropDraft(); return; }
  const values = {};
  for (const [name, value] of kept.fields) (values[name] ??= []).push(value);
  const restore = button("Restore", "act", () => {
    banner("");
    htmx.ajax("POST", bench().dataset.benchUrl, {
      source: "#bench", target: "#bench", swap: "morph:outerHTML", values,
    });
  });
  const discard = button("Discard", "act-line", () => { dropDraft(); banner(""); });
  banner(`Saved on this device at ${timeOfDay(kept.at)}, not on the server.`, restore, discard);
});

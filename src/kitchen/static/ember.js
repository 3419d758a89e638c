// Small things a server cannot do: countdowns, the column widths of the method, the chart's read-out, unsaved work.
"use strict";

if (window.Idiomorph) {
  Idiomorph.defaults.ignoreActiveValue = true; // what is being typed is never overwritten
  // A fold that was opened stays open, unless something wrong is to be shown in it.
  Idiomorph.defaults.callbacks.beforeAttributeUpdated = (name, node) => !(name === "open" && node.tagName === "DETAILS" && !node.querySelector(".problem"));
}

// Time: the kitchen's clock, from what the server said last. Date.now() goes on while a tablet sleeps.
const clock = { server: null, local: 0, rate: 1 };

function setClock(element) {
  if (!element || !element.dataset.now) return;
  clock.server = Number(element.dataset.now);
  clock.local = Date.now();
  clock.rate = Number(element.dataset.rate || 1);
}

function kitchenNow() {
  return clock.server === null ? Date.now() : clock.server + (Date.now() - clock.local) * clock.rate;
}

function span(seconds) {
  const total = Math.abs(Math.round(seconds));
  const sign = seconds < 0 && total ? "\u2212" : "";
  const h = Math.floor(total / 3600), m = Math.floor((total % 3600) / 60), s = String(total % 60).padStart(2, "0");
  return h ? `${sign}${h}:${String(m).padStart(2, "0")}:${s}` : `${sign}${m}:${s}`;
}

// When a countdown is due: of what comes again and again the next time of it, up to the last.
function dueOf(element, now) {
  const due = Number(element.dataset.due), every = Number(element.dataset.every) * 1000;
  if (!every || due >= now) return due;
  return Math.min(due + Math.ceil((now - due) / every) * every, Math.max(Number(element.dataset.last), due));
}

const FUSE_PX_A_MIN = 37.2;
let formatter = null;

function tick() {
  const now = kitchenNow();
  for (const element of document.querySelectorAll("[data-count]")) {
    const left = (dueOf(element, now) - now) / 1000;
    const digits = span(Math.abs(left));
    const text = Math.round(left) < 0 ? `${digits} late` : digits;
    if (element.textContent !== text) element.textContent = text;
    element.classList.toggle("long", digits.length > 5);
    element.classList.toggle("longest", digits.length > 6);
  }
  for (const element of document.querySelectorAll("[data-again]")) {
    const passed = Math.floor((now - Number(element.dataset.first)) / (Number(element.dataset.every) * 1000)) + 1;
    element.textContent = Math.min(Math.max(passed + 1, 1), Number(element.dataset.of));
  }
  for (const element of document.querySelectorAll("[data-fuse]")) {
    element.style.width = `${Math.max(0, (Number(element.dataset.due) - now) / 60000) * FUSE_PX_A_MIN}px`;
  }
  if (!formatter && document.body.dataset.zone) {
    formatter = new Intl.DateTimeFormat("en-GB", { hour: "2-digit", minute: "2-digit", timeZone: document.body.dataset.zone });
  }
  if (formatter) for (const element of document.querySelectorAll("[data-clock]")) element.textContent = formatter.format(now);
}

// The method's blocks stand over their own columns of the chart; the policy forbids style attributes, not this.
function layColumns() {
  for (const blocks of document.querySelectorAll("[data-columns]")) {
    blocks.style.gridTemplateColumns = blocks.dataset.columns.trim().split(/\s+/).map((w) => `${w}px`).join(" ");
  }
  for (const spans of document.querySelectorAll("[data-shares]")) {
    spans.style.gridTemplateColumns = spans.dataset.shares.trim().split(/\s+/).map((w) => `minmax(0, ${w}fr)`).join(" ");
  }
}

// Unsaved work on the bench. An answer to a question older than the last key would put old numbers back into fields
// that were typed in since: drop it, the next answer is on its way. A stage added or moved is never dropped.
let changed = false;
let edits = 0;

for (const kind of ["input", "change"]) {
  document.addEventListener(kind, (event) => {
    if (event.target.closest("#bench") && !["probe", "cursor", "cut-search"].includes(event.target.id)) { edits += 1; changed = true; }
  }, true);
}

document.addEventListener("htmx:beforeRequest", (event) => {
  event.detail.xhr.edits = edits;
  event.detail.xhr.isAct = "do" in event.detail.requestConfig.parameters;
});

let focused = ""; // a button that is pressed again and again: what it says and sends is the server's, its focus stays

document.addEventListener("htmx:beforeSwap", (event) => {
  const { xhr, target } = event.detail;
  const active = document.activeElement;
  focused = active?.tagName === "BUTTON" && target.contains(active) ? active.id : "";
  if (active?.tagName === "BUTTON" && target.contains(active)) active.blur();
  if (target.id === "bench" && !xhr.isAct && xhr.edits !== edits) event.detail.shouldSwap = false;
});

document.addEventListener("DOMContentLoaded", () => {
  setClock(document.body);
  setClock(document.getElementById("board"));
  layColumns();
  tick();
  setInterval(tick, 250);
  changed = document.querySelector("#bench[data-changed]") !== null;
  for (const say of document.querySelectorAll(".say:not(.say-error)")) {
    setTimeout(() => say.remove(), say.querySelector("form") ? 20000 : 6000);
  }
});

document.addEventListener("htmx:afterSwap", (event) => {
  if (focused) document.getElementById(focused)?.focus();
  focused = "";
  if (event.target.id === "board" || document.getElementById("board")) setClock(document.getElementById("board"));
  if (document.querySelector("#bench[data-changed]")) changed = true;
  heardAt = Date.now();
  layColumns();
  tick();
});

// What was last heard from the server; after a while without it, say so.
let heardAt = Date.now();
const LOST_AFTER_MS = 8000;

setInterval(() => {
  const lost = document.getElementById("lost");
  if (!lost) return;
  const silent = Date.now() - heardAt;
  lost.hidden = silent < LOST_AFTER_MS || document.hidden;
  if (!lost.hidden && formatter) lost.querySelector("[data-lost-since]").textContent = formatter.format(kitchenNow() - silent * clock.rate);
}, 1000);

// Hold "Done" for late, skip and undo. A sound when a hand is to be made ready, two when it is due; muted by person.
const HOLD_MS = 600;
let holding = null;
let audio = null;
const rung = new Set();

document.addEventListener("pointerdown", (event) => {
  if (!audio && window.AudioContext) audio = new AudioContext(); // a page may sound once it was touched
  const button = event.target.closest("[data-hold]");
  if (!button) return;
  holding = setTimeout(() => {
    document.getElementById(button.dataset.hold).open = true;
    button.dataset.held = "yes";
  }, HOLD_MS);
});
for (const kind of ["pointerup", "pointercancel"]) document.addEventListener(kind, () => clearTimeout(holding));
document.addEventListener("click", (event) => {
  const button = event.target.closest("[data-hold]");
  if (button?.dataset.held) { // the hold opened the menu: it is no tap
    delete button.dataset.held;
    event.preventDefault();
    event.stopImmediatePropagation();
  }
  const shut = event.target.closest("[data-shut]");
  if (shut) shut.closest("details").open = false;
  for (const menu of document.querySelectorAll(".hand-more[open]")) if (!menu.contains(event.target) && !button) menu.open = false;
}, true);

function beep(times) {
  if (!audio || document.body.dataset.muted) return;
  for (let i = 0; i < times; i += 1) {
    const tone = audio.createOscillator(), gain = audio.createGain();
    const at = audio.currentTime + i * 0.28;
    tone.frequency.value = 880;
    gain.gain.setValueAtTime(0.25, at);
    gain.gain.exponentialRampToValueAtTime(0.001, at + 0.22);
    tone.connect(gain).connect(audio.destination);
    tone.start(at);
    tone.stop(at + 0.24);
  }
}

// Of what comes again and again each time sounds, once.
function ringAgain(hand, count) {
  const again = hand.querySelector("[data-again]");
  if (!again) return;
  const every = Number(again.dataset.every) * 1000, first = Number(again.dataset.first), now = kitchenNow();
  const passed = Math.floor((now - first) / every);
  if (passed < 0 || passed >= Number(again.dataset.of) || now - (first + passed * every) > 1500) return;
  const key = `${hand.dataset.hand.split(":").slice(0, 2).join(":")}:again:${passed}`;
  if (rung.has(key)) return;
  rung.add(key);
  sound(hand, 2);
}

function sound(hand, times) {
  beep(times);
  document.dispatchEvent(new CustomEvent("hand-rings", { detail: { hand, isDue: times > 1 } }));
}

function ring() {
  for (const hand of document.querySelectorAll("[data-hand]")) {
    const count = hand.querySelector("[data-count]");
    if (!count) continue;
    const due = dueOf(count, kitchenNow());
    const left = (due - kitchenNow()) / 1000;
    const early = Number(hand.dataset.early);
    ringAgain(hand, count);
    for (const [what, when, times] of [["due", 0, 2], ["early", early, 1]]) {
      const key = `${hand.dataset.hand}:${what}:${count.dataset.every ? due : ""}`;
      if (left > when || rung.has(key)) continue;
      rung.add(key);
      if (left > when - 15) sound(hand, times); // not for what was due long before this page was opened
    }
    hand.classList.toggle("hand-due", left <= 0);
    hand.classList.toggle("hand-early", left > 0 && left <= early);
  }
}

setInterval(ring, 250);

document.addEventListener("visibilitychange", () => {
  if (!document.hidden && document.getElementById("board")) htmx.trigger(document.body, "wake");
});

document.addEventListener("click", (event) => {
  if (event.target.closest("[data-print]")) window.print();
  if (event.target.closest(".say-close")) event.target.closest(".say").remove();
});

document.addEventListener("change", (event) => {
  if (event.target.matches("[data-submit]")) event.target.form.requestSubmit();
});

document.addEventListener("submit", (event) => {
  const ask = event.target.dataset.ask;
  if (ask && !window.confirm(ask)) { event.preventDefault(); return; }
  changed = false;
});

document.addEventListener("keydown", (event) => {
  if (event.target.id === "piece-name" && event.key === "Enter") event.preventDefault();
  if ((event.ctrlKey || event.metaKey) && event.key === "s" && document.getElementById("bench")) {
    event.preventDefault();
    document.querySelector('#bench button[value="keep"]')?.click();
  }
});

window.addEventListener("beforeunload", (event) => {
  if (changed && document.getElementById("bench")) event.preventDefault();
});

// The plan bench: one time cursor for the chart and the cut face, handles to drag, stages to drag, undo, keys, sheets.
"use strict";

const bench = () => document.getElementById("bench");
const parsed = (id) => JSON.parse(document.getElementById(id)?.textContent || "null");
const typing = (element) => element?.matches?.("input:not([type=range]):not([type=checkbox]), textarea, select");

function act(verb) {
  document.activeElement?.blur?.();
  htmx.ajax("POST", bench().dataset.benchUrl, { source: "#bench", target: "#bench", swap: "morph:outerHTML", values: { do: verb } });
}

function setField(id, value) {
  const field = document.getElementById(id);
  if (!field || field.value === String(value)) return;
  field.value = value;
  field.dispatchEvent(new Event("change", { bubbles: true }));
}

// The time cursor -------------------------------------------------------------------------------------------------

const cursor = { share: 1, samples: null, face: null };

function readData() {
  cursor.samples = parsed("chart-samples");
  cursor.face = parsed("face-data");
  paintCursor();
}

function halfMm(mm) {
  const halves = mm < 9.75 ? Math.round(mm * 2) : 2 * Math.round(mm);
  const whole = Math.floor(halves / 2);
  return halves % 2 ? `${whole || ""}\u00bd` : String(whole);
}

function words(seconds) {
  const s = Math.round(seconds);
  if (s < 60) return `${s} s`;
  if (s < 600 && s % 60) return `${Math.floor(s / 60)} min ${s % 60} s`;
  const m = Math.round(s / 60), h = Math.floor(m / 60);
  if (h < 1) return `${m} min`;
  return h < 48 ? `${h} h${m % 60 ? ` ${m % 60} min` : ""}` : `${Math.floor(h / 24)} d ${h % 24} h`;
}

function paintCursor() {
  const { samples, face } = cursor;
  const line = document.getElementById("chart-cursor");
  if (!samples || !line) return;
  const width = samples.x[samples.x.length - 1];
  const x = cursor.share * width;
  let i = samples.x.findIndex((v) => v >= x - 0.5);
  if (i < 0) i = samples.x.length - 1;
  const atEnd = cursor.share >= 1;
  line.setAttribute("transform", `translate(${x.toFixed(1)} 0)`);
  const flag = line.querySelector("g");
  flag.toggleAttribute("hidden", atEnd);
  const shift = Math.min(Math.max(0, 52 - x), 104) || Math.min(0, width - 52 - x);
  flag.setAttribute("transform", `translate(${shift.toFixed(1)} 0)`);
  const fahrenheit = face?.fahrenheit;
  const show = (c) => (fahrenheit ? c * 1.8 + 32 : c).toFixed(1);
  const time = samples.t[i] < 86400 ? span(samples.t[i]) : words(samples.t[i]);
  document.getElementById("cursor-time").textContent = time;
  const dot = document.getElementById("cursor-core");
  const plot = document.getElementById("plot");
  dot.toggleAttribute("hidden", atEnd);
  dot.setAttribute("transform", `translate(${x.toFixed(1)} ${(Number(plot.dataset.top) + samples.y[i]).toFixed(1)})`);
  const value = dot.querySelector("text");
  value.textContent = show(samples.core[i]);
  value.setAttribute("x", x > width - 60 ? -44 : 8);
  const range = document.getElementById("cursor");
  if (range) {
    range.value = x;
    range.setAttribute("aria-valuetext", `${time}, core ${show(samples.core[i])}, outside ${show(samples.outside[i])}`);
  }
  if (!face) return;
  document.getElementById("face-when").textContent = atEnd ? "at the end" : `at ${time}`;
  const k = Math.round(cursor.share * (face.frames.length - 1));
  const colours = face.frames[k].match(/.{6}/g);
  document.querySelectorAll("#cut-face [data-stack] path").forEach((path, n) => {
    const fill = `#${colours[n % colours.length]}`;
    if (path.getAttribute("fill") !== fill) path.setAttribute("fill", fill);
  });
  paintBands(face.bands[k], face.inches);
}

function paintBands(bands, inches) {
  const body = document.getElementById("face-bands");
  if (!body) return;
  const each = body.querySelector(".bands-each");
  const rows = bands.map(([word, mm]) => {
    const row = document.createElement("tr");
    const head = document.createElement("th"), cell = document.createElement("td");
    head.scope = "row";
    head.textContent = word;
    cell.textContent = inches ? (mm / 25.4).toFixed(2) : halfMm(mm);
    row.append(head, cell);
    return row;
  });
  body.replaceChildren(rows[0], each, ...rows.slice(1));
}

function showCursor() { // a long chain is wider than the window
  const scroll = document.getElementById("work-scroll"), chart = document.getElementById("plan-chart");
  if (!scroll || !chart || scroll.scrollWidth <= scroll.clientWidth) return;
  const x = cursor.share * (chart.clientWidth - 52) + 48;
  if (x < scroll.scrollLeft + 60 || x > scroll.scrollLeft + scroll.clientWidth - 60) scroll.scrollLeft = x - scroll.clientWidth / 2;
}

function moveCursor(event) {
  const chart = event.target.closest?.("#plan-chart");
  if (!chart || !cursor.samples || (event.pointerType === "touch" && event.type === "pointermove" && !event.buttons)) return;
  const box = chart.getBoundingClientRect();
  const scale = box.width / chart.viewBox.baseVal.width;
  const width = cursor.samples.x[cursor.samples.x.length - 1];
  cursor.share = Math.min(Math.max(((event.clientX - box.left) / scale - 48) / width, 0), 1);
  paintCursor();
}

document.addEventListener("pointermove", (event) => { if (!drag) moveCursor(event); });
document.addEventListener("pointerdown", moveCursor);
document.addEventListener("pointerout", (event) => {
  const left = event.target.closest?.("#plan-chart") && !event.relatedTarget?.closest?.("#plan-chart");
  if (left && event.pointerType === "mouse") { cursor.share = 1; paintCursor(); }
});
for (const kind of ["input", "change"]) {
  document.addEventListener(kind, (event) => { // the cursor changes nothing in the plan: it does not reach the form
    if (event.target.id !== "cursor") return;
    event.stopImmediatePropagation();
    cursor.share = event.target.value / event.target.max;
    paintCursor();
    showCursor();
  }, true);
}

// Handles and stages to drag ------------------------------------------------------------------------------------------

let drag = null;
const decimals = (text) => (text.split(".")[1] || "").length;

function grip(element, by) {
  const field = document.getElementById(element.dataset.grip);
  const before = drag ? drag.value : Number(field.value.replace(",", "."));
  if (!Number.isFinite(before) || before <= 0) return;
  const inches = field.id === "piece-size" && /in/.test(element.getAttribute("aria-valuetext"));
  let value;
  if (element.dataset.px) value = before + by / Number(element.dataset.px) / (inches ? 25.4 : 1);
  else value = before * Math.max(0.2, (Number(element.dataset.span) + by) / Number(element.dataset.span)) ** Number(element.dataset.power);
  const step = element.dataset.px ? (inches ? 0.02 : 0.5) : before < 20 ? 0.01 : 5;
  setField(field.id, Number((Math.max(Math.round(value / step) * step, step)).toFixed(Math.max(decimals(String(step)), 0))));
}

document.addEventListener("pointerdown", (event) => {
  const handle = event.target.closest(".grip");
  const head = event.target.closest(".block-grip");
  if (handle) {
    const field = document.getElementById(handle.dataset.grip);
    drag = { handle: handle.dataset, id: handle.dataset.grip, x: event.clientX, y: event.clientY, value: Number(field.value.replace(",", ".")), scale: handle.ownerSVGElement.getScreenCTM().a, element: handle };
    event.preventDefault();
  } else if (head) {
    drag = { block: head.closest(".block"), x: event.clientX };
    drag.block.classList.add("block-held");
    event.preventDefault();
  }
});

document.addEventListener("pointermove", (event) => {
  if (!drag) return;
  if (drag.block) {
    drag.block.style.translate = `${event.clientX - drag.x}px 0`;
  } else {
    const element = { dataset: drag.handle, getAttribute: (name) => drag.element.getAttribute(name) };
    grip(element, (drag.handle.axis === "y" ? event.clientY - drag.y : event.clientX - drag.x) / drag.scale);
  }
});

document.addEventListener("pointerup", (event) => {
  if (!drag) return;
  const { block } = drag;
  drag = null;
  if (!block) return;
  block.classList.remove("block-held");
  block.style.translate = "";
  const from = Number(block.dataset.stage);
  const others = [...document.querySelectorAll(".blocks .block")].filter((other) => other !== block);
  const to = others.filter((other) => {
    const box = other.getBoundingClientRect();
    return box.left + box.width / 2 < event.clientX;
  }).length;
  if (to !== from) act(`move:${from}:${to}`);
});
document.addEventListener("pointercancel", () => {
  if (drag?.block) { drag.block.classList.remove("block-held"); drag.block.style.translate = ""; }
  drag = null;
});

// Undo ----------------------------------------------------------------------------------------------------------------

const past = { states: [], at: -1 };
const UNDO_DEEP = 60;

function snapshot() {
  const skip = ["csrfmiddlewaretoken", "start_token", "cut_q", "probe", "was_out", "was_cut"];
  return [...new FormData(bench())].filter(([key]) => !skip.includes(key)).map(([key, value]) => [key, String(value)]);
}

function remember(isPast) {
  if (!bench()) return;
  const now = snapshot();
  if (!isPast && JSON.stringify(past.states[past.at]) !== JSON.stringify(now)) {
    past.states = [...past.states.slice(Math.max(0, past.at + 1 - UNDO_DEEP), past.at + 1), now];
    past.at = past.states.length - 1;
  }
  const undo = document.querySelector("[data-undo]"), redo = document.querySelector("[data-redo]");
  if (undo) undo.disabled = past.at <= 0;
  if (redo) redo.disabled = past.at >= past.states.length - 1;
}

function go(by) {
  document.activeElement?.blur?.();
  const isAsking = bench().classList.contains("htmx-request"); // what is being asked is not among the states yet
  const to = isAsking && by < 0 ? past.at : past.at + by;
  if (to < 0 || to >= past.states.length) return;
  htmx.trigger(bench(), "htmx:abort");
  past.at = to;
  edits += 1;
  htmx.ajax("POST", bench().dataset.benchUrl, { // of the body: by that its answer is known below
    target: "#bench", swap: "morph:outerHTML", values: { ...Object.fromEntries(past.states[to]), do: "" },
  });
}

// Sheets, acts and the cut search ---------------------------------------------------------------------------------------

function openSheet(what) {
  const body = document.getElementById("sheet-body");
  body.replaceChildren(Object.assign(document.createElement("p"), { textContent: "Calculating …", className: "sheet-wait" }));
  document.getElementById("sheet").showModal();
  htmx.ajax("POST", bench().dataset[`${what}Url`], { source: "#bench", target: "#sheet-body", swap: "innerHTML" });
}

function closeFound() {
  const found = document.getElementById("cut-found");
  if (!found) return;
  found.hidden = true;
  document.getElementById("cut-search").setAttribute("aria-expanded", "false");
}

function chooseCut(option) {
  if (option.dataset.own) { window.location = option.dataset.own; return; }
  document.getElementById("cut-search").blur();
  closeFound();
  setField("piece-cut", option.dataset.cut);
}

document.addEventListener("click", (event) => {
  const on = (selector) => event.target.closest(selector);
  const option = on(".cut-option");
  if (option) chooseCut(option);
  else if (!on(".cut-pick")) closeFound();
  if (on("[data-close]")) on("dialog")?.close();
  const doing = on("[data-do]");
  if (doing) {
    if (doing.closest("#add-stage")) doing.closest("#add-stage").open = false;
    act(doing.dataset.do);
  }
  if (on("[data-sheet]")) openSheet(on("[data-sheet]").dataset.sheet);
  if (on("[data-undo]")) go(-1);
  if (on("[data-redo]")) go(1);
  if (on("[data-keys]")) document.getElementById("keys").showModal();
  if (on("[data-leaves]")) changed = false;
});

document.addEventListener("change", (event) => {
  const verb = event.target.dataset?.verb, of = event.target.dataset?.verbOf;
  if (!verb && !of) return;
  event.stopImmediatePropagation();
  edits += 1;
  changed = true;
  if (of) act(of);
  else if (event.target.value) { act(`${verb}:${event.target.value}`); event.target.value = ""; }
}, true);

document.addEventListener("change", (event) => {
  if (!event.target.matches("[data-fit-clock]") || !event.target.value) return;
  const [h, m] = event.target.value.split(":").map(Number);
  const now = new Date(kitchenNow());
  const here = formatter ? formatter.format(now).split(":").map(Number) : [now.getHours(), now.getMinutes()];
  const minutes = (h * 60 + m - here[0] * 60 - here[1] + 1440) % 1440;
  document.getElementById("fit-minutes").value = `${minutes} min`;
});

document.addEventListener("submit", (event) => { // the compare form in the sheet takes the bench along
  if (!event.target.matches("[data-with-bench]")) return;
  for (const [key, value] of snapshot()) {
    event.target.append(Object.assign(document.createElement("input"), { type: "hidden", name: key, value }));
  }
});

// Keys ------------------------------------------------------------------------------------------------------------------

function inCutSearch(event) {
  const options = [...document.querySelectorAll("#cut-found .cut-option")];
  if (event.key === "Escape") { closeFound(); document.getElementById("cut-search").blur(); }
  if (event.key === "Enter") { event.preventDefault(); if (options[0]) chooseCut(options[0]); }
  if (event.key === "ArrowDown") { event.preventDefault(); options[0]?.focus(); }
}

document.addEventListener("keydown", (event) => {
  if (!bench()) return;
  const { key, target } = event;
  if (target.id === "cut-search") { inCutSearch(event); return; }
  const option = target.closest?.(".cut-option");
  if (option && (key === "ArrowDown" || key === "ArrowUp")) {
    event.preventDefault();
    (key === "ArrowDown" ? option.nextElementSibling : option.previousElementSibling || document.getElementById("cut-search"))?.focus();
    return;
  }
  const handle = target.closest?.(".grip");
  if (handle && ["ArrowUp", "ArrowDown", "ArrowLeft", "ArrowRight"].includes(key)) {
    event.preventDefault();
    const px = Number(handle.dataset.px || 1);
    grip(handle, (key === "ArrowUp" || key === "ArrowRight" ? 1 : -1) * (handle.dataset.px ? px : 2));
    return;
  }
  const block = target.closest?.(".block");
  if (event.altKey && block && ["ArrowLeft", "ArrowRight", "Delete"].includes(key)) {
    event.preventDefault();
    act(`${{ ArrowLeft: "left", ArrowRight: "right", Delete: "remove" }[key]}:${block.dataset.stage}`);
    return;
  }
  if (typing(target) || document.querySelector("dialog[open]")) return;
  if ((event.ctrlKey || event.metaKey) && key.toLowerCase() === "z") { event.preventDefault(); go(event.shiftKey ? 1 : -1); return; }
  if (event.ctrlKey || event.metaKey || event.altKey) return;
  if (key === "?") document.getElementById("keys").showModal();
  else if (key === "/") { event.preventDefault(); document.getElementById("cut-search").select(); }
  else if (key === "m") openSheet("methods");
  else if (key === "f") openSheet("fit");
  else if (key === "c") document.getElementById("compare")?.click();
  else if ("[]{}".includes(key)) {
    const step = ("{}".includes(key) ? 0.1 : 0.01) * ("]}".includes(key) ? 1 : -1);
    cursor.share = Math.min(Math.max(cursor.share + step, 0), 1);
    paintCursor();
    showCursor();
  } else if (/^[1-9]$/.test(key)) document.querySelector(`#stage-${Number(key) - 1} input:not([type=hidden])`)?.focus();
});

// After every answer ------------------------------------------------------------------------------------------------------

let priced = null;

function afterBench(isPast = false) {
  readData();
  remember(isPast);
  clearTimeout(priced);
  document.getElementById("prices")?.classList.add("stale");
  priced = setTimeout(() => { if (bench()) htmx.trigger("#prices", "refresh"); }, 500);
}

document.addEventListener("DOMContentLoaded", () => { if (bench()) afterBench(); });
document.addEventListener("htmx:afterSwap", (event) => {
  if (event.target.id === "prices") event.target.classList.remove("stale");
  if (event.target.id === "cut-found") {
    const open = document.activeElement?.id === "cut-search";
    event.target.hidden = !open;
    document.getElementById("cut-search").setAttribute("aria-expanded", String(open));
    return;
  }
  if (event.target.id === "bench" || event.detail.target?.id === "bench") afterBench(event.detail.requestConfig?.elt === document.body);
});
document.addEventListener("htmx:beforeRequest", (event) => {
  if (event.detail.elt.id === "bench") htmx.trigger(document.body, "htmx:abort"); // an undo that was overtaken
});

if (window.Idiomorph) { // what comes later stays until it comes again
  const kept = ["prices", "cut-found", "cut-search"];
  Idiomorph.defaults.callbacks.beforeNodeMorphed = (old) => !(kept.includes(old.id) && (old.id === "prices" || old === document.activeElement || !old.hidden && old.id === "cut-found"));
}

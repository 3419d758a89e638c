// A shared tablet: people change by name and PIN, and it locks when nobody touches it.
import { csrfToken } from "./csrf.js";

const TELL_EVERY_MS = 60000;
let touchedAt = Date.now();
let toldAt = Date.now();

const form = () => document.getElementById("lock");

for (const kind of ["pointerdown", "keydown"]) {
  document.addEventListener(kind, () => { touchedAt = Date.now(); }, { capture: true, passive: true });
}

function tellTouched() { // scrolling and looking through a page send nothing by themselves
  if (touchedAt <= toldAt || Date.now() - toldAt < TELL_EVERY_MS) return;
  toldAt = Date.now();
  const body = new FormData(form());
  body.set("touched", "yes");
  body.set("csrfmiddlewaretoken", csrfToken());
  fetch(form().action, { method: "POST", body }).catch(() => null);
}

setInterval(() => {
  if (!form()) return;
  const idleMs = Number(form().dataset.idleMinutes) * 60000;
  if (Date.now() - touchedAt < idleMs) tellTouched();
  else if (navigator.onLine) form().requestSubmit(); // without a network the timers stay; the server locks by itself
}, 1000);

// The person on the rail is the way to the names, over the page as it is.
document.addEventListener("click", (event) => {
  const link = event.target.closest("[data-change-person]");
  if (!link || event.defaultPrevented || event.ctrlKey || event.metaKey) return;
  event.preventDefault();
  const dialog = document.createElement("dialog");
  dialog.id = "signed-out";
  dialog.className = "signed-out names-dialog";
  dialog.setAttribute("aria-labelledby", "signed-out-title");
  dialog.addEventListener("close", () => dialog.remove());
  document.body.append(dialog);
  window.htmx.ajax("GET", link.href, { target: dialog, swap: "innerHTML" }).then(() => dialog.showModal());
});

// On a locked tablet a tap on the line leads to the names.
document.addEventListener("click", (event) => {
  const rail = document.querySelector("[data-locked-rail]");
  if (!rail || document.querySelector(".page-names") || !event.target.closest("main form, main a, main button, main summary")) return;
  event.preventDefault();
  event.stopImmediatePropagation();
  rail.classList.add("rail-asks");
  rail.querySelector("a")?.focus();
}, true);

document.addEventListener("click", (event) => {
  const key = event.target.closest("[data-digit]");
  const field = key?.closest("[data-pin]").querySelector("#pin");
  if (!field) return;
  field.value = key.dataset.digit === "back" ? field.value.slice(0, -1) : (field.value + key.dataset.digit).slice(0, 6);
  if (field.value.length === 6) key.closest("form").requestSubmit();
});
document.addEventListener("input", (event) => {
  if (event.target.id === "pin" && event.target.value.length === 6) event.target.form.requestSubmit();
});

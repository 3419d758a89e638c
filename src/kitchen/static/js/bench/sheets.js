// Buttons of the bench: sheets laid over it, verbs, the target's clock, and forms that take the bench along.
import { kitchenNow, timeOfDay } from "../clock.js";
import { markEdited, markSaved } from "../unsaved.js";
import { ask, bench } from "./form.js";
import { fieldsOfPlan } from "./undo.js";

const DAY_MIN = 24 * 60;

export function openSheet(what) {
  const body = document.getElementById("sheet-body");
  const wait = Object.assign(document.createElement("p"), { textContent: "Calculating …", className: "sheet-wait" });
  body.replaceChildren(wait);
  document.getElementById("sheet").showModal();
  htmx.ajax("POST", bench().dataset[`${what}Url`], { source: "#bench", target: "#sheet-body", swap: "innerHTML" });
}

document.addEventListener("click", (event) => {
  const on = (selector) => event.target.closest(selector);
  if (on("[data-close]")) on("dialog")?.close();
  if (on("[data-do]")) {
    const menu = on("#add-stage");
    if (menu) menu.open = false;
    ask(on("[data-do]").dataset.do);
  }
  if (on("[data-sheet]")) openSheet(on("[data-sheet]").dataset.sheet);
  if (on("[data-keys]")) document.getElementById("keys").showModal();
  if (on("[data-leaves]")) markSaved();
});

// A choice that asks: by the verb of the field with its value, or by the verb alone.
document.addEventListener("change", (event) => {
  const { verb, verbOf } = event.target.dataset ?? {};
  if (!verb && !verbOf) return;
  event.stopImmediatePropagation();
  markEdited();
  if (verbOf) ask(verbOf);
  else if (event.target.value) { ask(`${verb}:${event.target.value}`); event.target.value = ""; }
}, true);

const minutesOf = (time) => time.split(":").map(Number).reduce((hours, minutes) => hours * 60 + minutes);

document.addEventListener("change", (event) => { // a time of day as minutes from now
  if (!event.target.matches("[data-fit-clock]") || !event.target.value) return;
  const left = (minutesOf(event.target.value) - minutesOf(timeOfDay(kitchenNow())) + DAY_MIN) % DAY_MIN;
  document.getElementById("fit-minutes").value = `${left} min`;
});

document.addEventListener("submit", (event) => {
  if (!event.target.matches("[data-with-bench]")) return;
  for (const [name, value] of fieldsOfPlan()) {
    event.target.append(Object.assign(document.createElement("input"), { type: "hidden", name, value }));
  }
});

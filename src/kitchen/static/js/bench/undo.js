// Undo and redo of the bench: the form as it was, asked for again.
import { outdateAnswers } from "../unsaved.js";
import { bench } from "./form.js";

const DEPTH = 60;
const NOT_OF_THE_PLAN = ["csrfmiddlewaretoken", "start_token", "cut_q", "probe", "was_out", "was_cut"];
const past = { states: [], at: -1 };

// The form's fields, [name, value] each, without those that are not of the plan.
export function fieldsOfPlan() {
  const fields = [...new FormData(bench())].filter(([name]) => !NOT_OF_THE_PLAN.includes(name));
  return fields.map(([name, value]) => [name, String(value)]);
}

// After an answer: a new state, unless it is one that was gone back to.
export function remember(isPast) {
  const now = fieldsOfPlan();
  if (!isPast && JSON.stringify(past.states[past.at]) !== JSON.stringify(now)) {
    past.states = [...past.states.slice(Math.max(0, past.at + 1 - DEPTH), past.at + 1), now];
    past.at = past.states.length - 1;
  }
  const undo = document.querySelector("[data-undo]"), redo = document.querySelector("[data-redo]");
  if (undo) undo.disabled = past.at <= 0;
  if (redo) redo.disabled = past.at >= past.states.length - 1;
}

export function go(by) {
  document.activeElement?.blur?.();
  const isAsking = bench().classList.contains("htmx-request"); // what is being asked is not among the states yet
  const to = isAsking && by < 0 ? past.at : past.at + by;
  if (to < 0 || to >= past.states.length) return;
  htmx.trigger(bench(), "htmx:abort");
  past.at = to;
  outdateAnswers();
  htmx.ajax("POST", bench().dataset.benchUrl, { // of the body: by that its answer is known
    target: "#bench", swap: "morph:outerHTML", values: { ...Object.fromEntries(past.states[to]), do: "" },
  });
}

document.addEventListener("click", (event) => {
  if (event.target.closest("[data-undo]")) go(-1);
  if (event.target.closest("[data-redo]")) go(1);
});

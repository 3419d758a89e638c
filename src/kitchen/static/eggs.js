// Eggs: the bench asks again at every change; the steps take one tap or one key, and their rail is locked to wet hands.
"use strict";

// A button that leaves the page posts the form; every other one only asks again.
document.addEventListener("htmx:confirm", (event) => {
  const submitter = event.detail.triggeringEvent?.submitter;
  if (submitter?.dataset.leaves === undefined) return;
  event.preventDefault();
  const form = document.getElementById("eggs");
  form.method = "post";
  form.action = submitter.formAction;
  form.submit();
});

// What is half typed over the number is no time yet: the bench asks when the field is left, or at enter, and then the
// clock counts and no word.
document.addEventListener("input", (event) => {
  if (event.target.id === "egg-minutes") event.stopPropagation();
}, true);
document.addEventListener("htmx:configRequest", (event) => {
  const asked = event.detail.triggeringEvent;
  const byEnter = asked?.type === "submit" && !asked.submitter?.name && document.activeElement?.id === "egg-minutes";
  if (asked?.target?.id === "egg-minutes" || byEnter) event.detail.parameters.target = "clock";
});

// What moves the clock takes longer than the picture: it follows, and what was there stays until then.
let following = null;
function follow() {
  const moves = document.getElementById("egg-moves");
  if (!moves) return;
  moves.classList.add("stale");
  clearTimeout(following);
  following = setTimeout(() => htmx.trigger("#egg-moves", "refresh"), 250);
}
if (window.Idiomorph) Idiomorph.defaults.callbacks.beforeNodeMorphed = (old) => old.id !== "egg-moves";
document.addEventListener("htmx:afterSwap", (event) => {
  if (event.target.id === "egg-moves") event.target.classList.remove("stale");
  else if (document.getElementById("eggs")) follow();
});

// One key for the next step: space, enter or the right arrow, wherever nothing else is focused.
document.addEventListener("keydown", (event) => {
  const next = document.getElementById("steps-next");
  if (!next || event.repeat || event.target.closest("input, textarea, select, a, button:not(#steps-next)")) return;
  if ([" ", "Enter", "ArrowRight"].includes(event.key)) {
    event.preventDefault();
    next.click();
  }
});

// The rail opens only to a hand that holds it: wet fingers slip.
const LEAVE_MS = 600;
let leaving = null;

document.addEventListener("click", (event) => {
  const link = event.target.closest(".rail a");
  if (!link || !document.querySelector(".page-steps") || event.detail === 0 || link.dataset.held) return;
  event.preventDefault();
  document.querySelector(".rail").classList.add("rail-told");
}, true);
document.addEventListener("pointerdown", (event) => {
  const link = event.target.closest(".rail a");
  if (!link || !document.querySelector(".page-steps")) return;
  leaving = setTimeout(() => { link.dataset.held = "yes"; window.location.href = link.href; }, LEAVE_MS);
});
for (const kind of ["pointerup", "pointercancel"]) document.addEventListener(kind, () => clearTimeout(leaving));

// The fuse along the top edge is a minute wide.
setInterval(() => {
  for (const fuse of document.querySelectorAll("[data-fuse-share]")) {
    const left = (Number(fuse.dataset.due) - kitchenNow()) / 60000;
    fuse.style.width = `${100 * Math.min(Math.max(left, 0), 1)}%`;
  }
}, 250);

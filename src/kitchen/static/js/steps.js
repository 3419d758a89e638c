// Steps take one tap or one key, and their rail is locked to wet hands.
import { kitchenNow } from "./clock.js";

// One key for the next step: space, enter or the right arrow, wherever nothing else is focused.
document.addEventListener("keydown", (event) => {
  const next = document.getElementById("steps-next");
  const isElsewhere = event.target.closest("input, textarea, select, a, button:not(#steps-next)");
  if (!next || event.repeat || isElsewhere) return;
  if ([" ", "Enter", "ArrowRight"].includes(event.key)) {
    event.preventDefault();
    next.click();
  }
});

// The rail opens only when it is held: wet fingers slip.
const LEAVE_MS = 600;
let leaving = null;

document.addEventListener("click", (event) => {
  const link = event.target.closest(".rail a");
  const isKey = event.detail === 0;
  if (!link || !document.querySelector(".page-steps") || isKey || link.dataset.held) return;
  event.preventDefault();
  document.querySelector(".rail").classList.add("rail-locked");
}, true);
document.addEventListener("pointerdown", (event) => {
  const link = event.target.closest(".rail a");
  if (!link || !document.querySelector(".page-steps")) return;
  leaving = setTimeout(() => {
    link.dataset.held = "yes";
    window.location.href = link.href;
  }, LEAVE_MS);
});
for (const kind of ["pointerup", "pointercancel"]) document.addEventListener(kind, () => clearTimeout(leaving));

// The fuse along the top edge is a minute wide.
setInterval(() => {
  for (const fuse of document.querySelectorAll("[data-fuse-share]")) {
    const left = (Number(fuse.dataset.due) - kitchenNow()) / 60000;
    fuse.style.width = `${100 * Math.min(Math.max(left, 0), 1)}%`;
  }
}, 250);

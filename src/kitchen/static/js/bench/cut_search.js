// The list of cuts under the bench's search field.
import { setField } from "./form.js";

const field = () => document.getElementById("cut-search");

function close() {
  const list = document.getElementById("cut-found");
  if (!list) return;
  list.hidden = true;
  field().setAttribute("aria-expanded", "false");
}

function choose(option) {
  if (option.dataset.own) { window.location = option.dataset.own; return; }
  field().blur();
  close();
  setField("piece-cut", option.dataset.cut);
}

document.addEventListener("click", (event) => {
  const option = event.target.closest(".cut-option");
  if (option) choose(option);
  else if (!event.target.closest(".cut-pick")) close();
});

// Keys in the field and in its list; true where the key was one of theirs.
export function takeKey(event) {
  const { key, target } = event;
  const option = target.closest?.(".cut-option");
  if (target.id === "cut-search") {
    const [first] = document.querySelectorAll("#cut-found .cut-option");
    if (key === "Escape") { close(); field().blur(); }
    if (key === "Enter") { event.preventDefault(); if (first) choose(first); }
    if (key === "ArrowDown") { event.preventDefault(); first?.focus(); }
    return true;
  }
  if (!option || !["ArrowDown", "ArrowUp"].includes(key)) return false;
  event.preventDefault();
  (key === "ArrowDown" ? option.nextElementSibling : option.previousElementSibling || field())?.focus();
  return true;
}

document.addEventListener("htmx:afterSwap", (event) => {
  if (event.target.id !== "cut-found") return;
  const isOpen = document.activeElement?.id === "cut-search";
  event.target.hidden = !isOpen;
  field().setAttribute("aria-expanded", String(isOpen));
});

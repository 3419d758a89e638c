// Keys of the bench; `?` shows them.
import { moveBy } from "./cursor.js";
import { takeKey } from "./cut_search.js";
import { nudge, toggle } from "./drag.js";
import { ask, bench } from "./form.js";
import { openSheet } from "./sheets.js";
import { go } from "./undo.js";

const DIRECTIONS = { ArrowUp: 1, ArrowRight: 1, ArrowDown: -1, ArrowLeft: -1 };
const MOVES = { ArrowLeft: "left", ArrowRight: "right", Delete: "remove" };
const CURSOR = { "[": -0.01, "]": 0.01, "{": -0.1, "}": 0.1 };
const TEXT_FIELDS = "input:not([type=range]):not([type=checkbox]), textarea, select";

const PLAIN = {
  "?": () => document.getElementById("keys").showModal(),
  "/": (event) => { event.preventDefault(); document.getElementById("cut-search").select(); },
  m: () => openSheet("methods"),
  f: () => openSheet("fit"),
  c: () => document.getElementById("compare")?.click(),
};

function saveKey(event) {
  if (event.key !== "s" || !(event.ctrlKey || event.metaKey)) return false;
  event.preventDefault();
  document.querySelector('#bench button[value="keep"]')?.click();
  return true;
}

function gripKey(event) {
  const grip = event.target.closest?.(".grip");
  if (grip?.dataset.switch && (event.key === "Enter" || event.key === " ")) {
    event.preventDefault();
    toggle(grip);
    return true;
  }
  if (!grip?.dataset.grip || !(event.key in DIRECTIONS)) return false;
  event.preventDefault();
  nudge(grip, DIRECTIONS[event.key]);
  return true;
}

function stageKey(event) {
  const block = event.target.closest?.(".block");
  if (!event.altKey || !block || !(event.key in MOVES)) return false;
  event.preventDefault();
  ask(`${MOVES[event.key]}:${block.dataset.stage}`);
  return true;
}

document.addEventListener("keydown", (event) => {
  if (!bench()) return;
  const { key, target } = event;
  if (target.id === "piece-name" && key === "Enter") event.preventDefault();
  if (saveKey(event) || takeKey(event) || gripKey(event) || stageKey(event)) return;
  if (target.matches?.(TEXT_FIELDS) || document.querySelector("dialog[open]")) return;
  const isControl = event.ctrlKey || event.metaKey;
  if (isControl && key.toLowerCase() === "z") {
    event.preventDefault();
    go(event.shiftKey ? 1 : -1);
  } else if (isControl || event.altKey) {
    return;
  } else if (key in PLAIN) {
    PLAIN[key](event);
  } else if (key in CURSOR) {
    moveBy(CURSOR[key]);
  } else if (/^[1-9]$/.test(key)) {
    document.querySelector(`#stage-${Number(key) - 1} input:not([type=hidden])`)?.focus();
  }
});

// Taps that wait, and what became of the last, over the board.
import { timeOfDay } from "./clock.js";

function resultWords(tap) {
  if (tap.result === "already") return `already done by ${tap.by} at ${tap.doneAt}`;
  if (tap.result === "refused") return `refused: ${tap.why}`;
  return tap.result === "done" ? "done" : "waiting to send";
}

function line(look, ...parts) {
  const made = document.createElement("p");
  made.className = `tap tap-${look}`;
  made.append(...parts);
  return made;
}

function tapLine(tap) {
  const time = document.createElement("b");
  time.textContent = timeOfDay(tap.at);
  return line(tap.result ?? "waiting", time, ` ${tap.words}: ${resultWords(tap)}`);
}

function closeButton(close) {
  const button = document.createElement("button");
  button.type = "button";
  button.className = "act-quiet";
  button.textContent = "Close";
  button.addEventListener("click", close);
  return button;
}

function makeList(board) {
  const list = document.createElement("section");
  list.id = "taps";
  list.className = "taps";
  list.setAttribute("role", "status");
  board.before(list);
  return list;
}

// `others`: how many taps somebody else left on this device; `close` puts the results away.
export function showTaps({ waiting, results, others, close }) {
  const board = document.getElementById("board");
  let list = document.getElementById("taps");
  if (!board || (!waiting.length && !results.length && !others)) { list?.remove(); return; }
  list ??= makeList(board);
  list.replaceChildren(...[...waiting, ...results].map(tapLine));
  if (others) list.append(line("waiting", `${others} tapped by somebody else: sent when they sign in here.`));
  if (!window.isSecureContext && waiting.length) list.append(line("note", "Reload-proof offline mode needs HTTPS."));
  if (results.length) list.append(closeButton(close));
}

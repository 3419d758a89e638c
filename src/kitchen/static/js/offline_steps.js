// Without the server the line goes on from its last answer: a tap brings the next step of that cook, with its time.
import { tick } from "./countdowns.js";

function newToken() { // also where a page is not served over HTTPS
  const bytes = crypto.getRandomValues(new Uint8Array(16));
  bytes[6] = (bytes[6] & 0x0f) | 0x40;
  bytes[8] = (bytes[8] & 0x3f) | 0x80;
  const hex = [...bytes].map((byte) => byte.toString(16).padStart(2, "0")).join("");
  return [hex.slice(0, 8), hex.slice(8, 12), hex.slice(12, 16), hex.slice(16, 20), hex.slice(20)].join("-");
}

function setText(root, selector, text) {
  const element = root.querySelector(selector);
  if (element) element.textContent = text;
}

// The step after the one that was tapped: `coming` holds those still to come, each so long after the one before.
export function goOn(tap) {
  const fields = new URLSearchParams(tap.body);
  const pan = document.querySelector("[data-pieces]");
  if (pan && fields.has("did")) { goOnInThePan(pan, fields, tap.at); return; }
  const holder = holderOf(fields);
  if (!holder || ["late", "more", "undo", "stop"].includes(fields.get("how")) || fields.has("word")) return;
  const coming = JSON.parse(holder.dataset.coming);
  const next = coming.shift();
  holder.dataset.coming = JSON.stringify(coming);
  const form = holder.querySelector("form[hx-post]") ?? document.querySelector(".steps-do");
  holder.classList.add("is-ahead");
  if (!next) {
    setText(holder, "h3, .steps-verb", "Waiting for the server");
    for (const button of form?.querySelectorAll("button") ?? []) button.disabled = true;
    return;
  }
  setText(holder, "h3, .steps-verb", next.words);
  setText(holder, ".action-what p, .steps-how", next.how);
  for (const count of holder.querySelectorAll("[data-due]")) {
    count.dataset.due = next.due ?? tap.at + Math.round(next.after_s * 1000);
    delete count.dataset.every;
  }
  const cook = holder.dataset.cook;
  holder.dataset.action = `${cook}:${next.number}`;
  const field = form?.querySelector("input[name=tap]");
  if (field) field.value = `${cook}:${next.number}:${newToken()}`;
  for (const each of document.querySelectorAll(".steps-do, .steps-side")) {
    const step = each.querySelector("input[name=step]");
    if (step) step.value = next.number;
  }
  for (const token of (form ?? holder).querySelectorAll("input[name=token]")) token.value = newToken();
  setText(form ?? holder, "#steps-next small", next.records ?? "");
  tick();
}

function holderOf(fields) {
  const [cook, step] = (fields.get("tap") ?? "").split(":");
  return [...document.querySelectorAll("[data-coming]")].find((holder) => (
    holder.dataset.action.startsWith(`${cook || holder.dataset.cook}:${step ?? fields.get("step")}`)
  ));
}

// In a pan: the piece that was tapped waits for its next turn or lift; the one that is due first is next.
function goOnInThePan(pan, fields, at) {
  if (fields.get("did") === "undo") return;
  const pieces = JSON.parse(pan.dataset.pieces);
  const piece = pieces.find((each) => each.number === Number(fields.get("piece")));
  if (!piece) return;
  piece.coming.shift();
  piece.due = at + piece.side_s * 1000;
  pan.dataset.pieces = JSON.stringify(pieces);
  const [next] = pieces.filter((each) => each.coming.length).sort((a, b) => a.due - b.due || a.number - b.number);
  const button = pan.querySelector("#pan-tap");
  if (!next || !button) {
    if (button) button.disabled = true;
    setText(pan, ".pan-verb", "all out");
    return;
  }
  const [did] = next.coming;
  setText(pan, ".pan-verb", `${did} ${next.number}`);
  const centre = pan.querySelector(".pan-centre");
  if (centre) centre.dataset.due = next.due;
  button.value = did;
  button.textContent = `${{ lay: "Laid", turn: "Turned", lift: "Lifted" }[did]} ${next.number}`;
  const form = button.closest("form");
  form.querySelector("input[name=piece]").value = next.number;
  form.querySelector("input[name=token]").value = newToken();
  tick();
}

// The piece is dragged larger by its grips, a stage to another place by its head.
import { ask, numberIn, setField } from "./form.js";

let drag = null;

export const isDragging = () => drag !== null;

const decimals = (step) => (String(step).split(".")[1] || "").length;
const isInInches = (grip) => /in/.test(grip.getAttribute("aria-valuetext"));

// A grip with `px` moves its field by so many px a millimetre; one with `span` scales it, by the power of the span.
function pull(grip, before, by) {
  if (!Number.isFinite(before) || before <= 0) return;
  const { px, span, power } = grip.dataset;
  const inches = px && isInInches(grip);
  let value, step;
  if (px) {
    value = before + by / Number(px) / (inches ? 25.4 : 1);
    step = inches ? 0.02 : 0.5;
  } else {
    value = before * Math.max(0.2, (Number(span) + by) / Number(span)) ** Number(power);
    step = before < 20 ? 0.01 : 5;
  }
  setField(grip.dataset.grip, Number(Math.max(Math.round(value / step) * step, step).toFixed(decimals(step))));
}

// A grip by the keyboard: half a millimetre, or the least change of a mass.
export function nudge(grip, direction) {
  const { px } = grip.dataset;
  pull(grip, numberIn(document.getElementById(grip.dataset.grip)), direction * (px ? Number(px) : 2));
}

// A corner is square or round.
export function toggle(grip) {
  const field = document.getElementById(grip.dataset.switch);
  if (field) setField(field.id, field.value === "round" ? "square" : "round");
}

// What the grips say to those who cannot see them is the number in their field.
export function nameGrips() {
  for (const grip of document.querySelectorAll(".grip[data-grip]")) {
    const value = numberIn(document.getElementById(grip.dataset.grip));
    if (Number.isFinite(value)) grip.setAttribute("aria-valuenow", value);
  }
}

function beginGrip(event, grip) {
  const value = numberIn(document.getElementById(grip.dataset.grip));
  // The answer to a drag draws the grip anew: what it was when the drag began counts.
  const scale = grip.ownerSVGElement.getScreenCTM().a;
  drag = { grip: grip.cloneNode(), value, scale, x: event.clientX, y: event.clientY };
}

function beginBlock(event, block) {
  drag = { block, x: event.clientX };
  block.classList.add("block-held");
}

function end() {
  if (drag?.block) {
    drag.block.classList.remove("block-held");
    drag.block.style.translate = "";
  }
  drag = null;
}

document.addEventListener("pointerdown", (event) => {
  const grip = event.target.closest(".grip"), head = event.target.closest(".block-grip");
  if (!grip && !head) return;
  if (grip?.dataset.switch) toggle(grip);
  else if (grip) beginGrip(event, grip);
  else beginBlock(event, head.closest(".block"));
  event.preventDefault();
});

document.addEventListener("pointermove", (event) => {
  if (drag?.block) drag.block.style.translate = `${event.clientX - drag.x}px 0`;
  if (!drag?.grip) return;
  const by = drag.grip.dataset.axis === "y" ? event.clientY - drag.y : event.clientX - drag.x;
  pull(drag.grip, drag.value, by / drag.scale);
});

document.addEventListener("pointerup", (event) => {
  const block = drag?.block;
  end();
  if (!block) return;
  const from = Number(block.dataset.stage);
  const others = [...document.querySelectorAll(".blocks .block")].filter((other) => other !== block);
  const to = others.filter((other) => {
    const box = other.getBoundingClientRect();
    return box.left + box.width / 2 < event.clientX;
  }).length;
  if (to !== from) ask(`move:${from}:${to}`);
});
document.addEventListener("pointercancel", end);

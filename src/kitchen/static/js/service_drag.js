// Lanes: a bar is dragged along the time axis; the server says what follows, or why it cannot be there.
import { timeOfDay } from "./clock.js";

const STEP_S = 60;
const FAR_PX = 6; // nearer than this it is a click
let drag = null;

// The axis of the drawing: seconds and px of its seams, and where it begins.
function readAxis() {
  const chart = document.getElementById("lanes");
  const numbers = (name) => chart.dataset[name].split(" ").map(Number);
  return { seconds: numbers("seconds"), x: numbers("x"), left: Number(chart.dataset.left) };
}

function between(value, from, to) {
  const last = from.length - 1;
  const before = from.findIndex((_, k) => k < last && value <= from[k + 1]);
  const i = before < 0 ? last - 1 : before;
  const share = (value - from[i]) / (from[i + 1] - from[i] || 1);
  return to[i] + share * (to[i + 1] - to[i]);
}

function timeText() {
  const text = document.createElementNS("http://www.w3.org/2000/svg", "text");
  text.setAttribute("class", "drag-word strong");
  text.setAttribute("x", drag.x);
  text.setAttribute("y", Number(drag.box.getAttribute("y")) - 4);
  return drag.bar.appendChild(text);
}

document.addEventListener("pointerdown", (event) => {
  const bar = event.target.closest("[data-bar]");
  if (!bar || event.button) return;
  const box = bar.querySelector("rect");
  drag = { bar, box, axis: readAxis(), from: event.clientX, x: Number(box.getAttribute("x")), seconds: null };
});

document.addEventListener("pointermove", (event) => {
  if (!drag) return;
  const by = event.clientX - drag.from;
  if (drag.seconds === null && Math.abs(by) < FAR_PX) return;
  event.preventDefault();
  const { axis, bar } = drag;
  drag.seconds = Math.round(between(drag.x + by - axis.left, axis.x, axis.seconds) / STEP_S) * STEP_S;
  bar.classList.add("bar-dragged");
  bar.setAttribute("transform", `translate(${by} 0)`);
  (bar.querySelector(".drag-word") ?? timeText()).textContent = timeOfDay(drag.seconds * 1000);
});

// The click that follows a drop opens nothing.
function swallowClick() {
  const swallow = (event) => { event.preventDefault(); event.stopPropagation(); };
  document.addEventListener("click", swallow, { capture: true, once: true });
  window.setTimeout(() => document.body.click(), 0);
}

document.addEventListener("pointerup", () => {
  if (!drag) return;
  const { bar, seconds } = drag;
  drag = null;
  bar.querySelector(".drag-word")?.remove();
  bar.classList.remove("bar-dragged");
  if (seconds === null) return;
  bar.removeAttribute("transform");
  swallowClick();
  const [dish, task, n] = bar.dataset.bar.split(":");
  const value = new Date(seconds * 1000).toISOString().replace("Z", "+00:00");
  htmx.ajax("POST", document.getElementById("service").dataset.url, {
    target: "#service", swap: "morph:outerHTML", values: { dish, task, n, what: "at", value },
  });
});

document.addEventListener("dragstart", (event) => {
  if (event.target.closest?.("[data-bar]")) event.preventDefault();
});

document.addEventListener("DOMContentLoaded", () => { // the plates are at the far end
  const scroll = document.getElementById("service-scroll");
  if (scroll && !location.search.includes("task=")) scroll.scrollLeft = scroll.scrollWidth;
});

// A photograph under its handles: the line across the face, the outline that is proposed, something white. By finger,
// mouse or keys; what counts are the hidden fields of the form.
import { csrfToken } from "./csrf.js";

const ASK_AFTER_MS = 250;
const STEP = 1 / 400; // of the picture's width, by an arrow key
const LOUPE_SHARE = 8; // of the picture's width that the loupe shows: one part in so many
const SAYS = {
  "": "Drag the two rings to the top and the underside of the piece, straight across the thickest part.",
  white: "Tap a plate, cloth or paper that is white and lit as the face is. The colours are judged by it.",
  inside: "Tap what belongs to the piece and lies outside the outline.",
  outside: "Tap what the outline holds and is not the piece.",
};

const svg = document.getElementById("face-frame");
const form = document.getElementById("face-form");
const loupe = document.querySelector(".face-loupe");
const { width, height, mark } = Object.fromEntries(Object.entries(svg.dataset).map(([key, value]) => [key, Number(value)]));
const corrections = { inside: [], outside: [] };
let tool = "";
let held = null;
let asked = 0;
let waiting = null;

const field = (name) => form.elements[name];
const pointOf = (name) => field(name).value ? field(name).value.split(",").map(Number) : null;
const within = (value, most) => Math.min(Math.max(value, 0), most - 1);

function place(name, x, y) {
  field(name).value = `${within(x, width).toFixed(1)},${within(y, height).toFixed(1)}`;
  draw();
}

function draw() {
  const top = pointOf("top");
  const under = pointOf("under");
  for (const line of svg.querySelectorAll(".face-line")) line.setAttribute("d", `M${top.join(" ")}L${under.join(" ")}`);
  for (const handle of svg.querySelectorAll("[data-handle]")) {
    const at = pointOf(handle.dataset.handle);
    handle.toggleAttribute("hidden", !at);
    if (at) handle.setAttribute("transform", `translate(${at.join(" ")})`);
  }
  const marks = svg.querySelector(".face-marks");
  marks.replaceChildren(...Object.entries(corrections).flatMap(([kind, points]) => points.map(([x, y]) => {
    const dot = document.createElementNS(svg.namespaceURI, "circle");
    for (const [key, value] of Object.entries({ cx: x, cy: y, r: mark / 2, class: `face-${kind}` })) dot.setAttribute(key, value);
    return dot;
  })));
}

function at(event) {
  const point = new DOMPoint(event.clientX, event.clientY).matrixTransform(svg.getScreenCTM().inverse());
  return [point.x, point.y];
}

// What a finger hides: the place under it, large, in the corner that is farther away.
function magnify(name) {
  const point = name && pointOf(name);
  loupe.toggleAttribute("hidden", !point);
  if (!point) return;
  const wide = width / LOUPE_SHARE;
  loupe.setAttribute("viewBox", `${point[0] - wide / 2} ${point[1] - wide / 2} ${wide} ${wide}`);
  const [x, y] = point;
  loupe.querySelector("path").setAttribute("d", `M${x - wide / 10} ${y}h${wide / 5}M${x} ${y - wide / 10}v${wide / 5}`);
  loupe.classList.toggle("is-right", x < width / 2);
}

function setTool(next) {
  tool = next;
  for (const button of document.querySelectorAll("[data-tool]")) {
    button.setAttribute("aria-pressed", String(button.dataset.tool === tool));
  }
  document.getElementById("face-says").textContent = SAYS[tool];
}

// The outline -------------------------------------------------------------------------------------------------------------

async function propose() {
  const number = ++asked;
  const body = new FormData();
  body.append("csrfmiddlewaretoken", csrfToken());
  for (const [kind, points] of Object.entries(corrections)) body.append(kind, points.map((p) => p.join(",")).join(" "));
  svg.classList.add("is-asking");
  let answer = { problem: "The outline could not be asked for. Place the two rings by hand." };
  try {
    const response = await fetch(svg.dataset.proposal, { method: "POST", body, headers: { "X-CSRFToken": csrfToken() } });
    if (response.ok) answer = await response.json();
    else if (response.status === 503 && number === asked) { setTimeout(propose, 2000); return; }
  } catch { /* without the server the rings are placed by hand */ }
  if (number !== asked) return;
  svg.classList.remove("is-asking");
  if (answer.problem) {
    document.getElementById("face-says").textContent = answer.problem;
    return;
  }
  svg.querySelector(".face-outline").setAttribute("points", answer.outline.map((p) => p.join(",")).join(" "));
  place("top", ...answer.top);
  place("under", ...answer.under);
}

function correct(kind, point) {
  corrections[kind].push(point.map((value) => Math.round(value)));
  draw();
  clearTimeout(waiting);
  waiting = setTimeout(propose, ASK_AFTER_MS);
}

document.addEventListener("click", (event) => {
  const button = event.target.closest("[data-tool]");
  if (button) setTool(button.dataset.tool);
  if (event.target.closest("[data-tool-reset]")) {
    corrections.inside = [];
    corrections.outside = [];
    setTool("");
    propose();
  }
});

// Finger and mouse ----------------------------------------------------------------------------------------------------------

svg.addEventListener("pointerdown", (event) => {
  if (event.button) return;
  const point = at(event);
  if (tool === "white") { place("white", ...point); setTool(""); return; }
  if (tool) { correct(tool, point); return; }
  const handle = event.target.closest("[data-handle]");
  if (!handle) return;
  event.preventDefault();
  svg.setPointerCapture(event.pointerId);
  const [x, y] = pointOf(handle.dataset.handle);
  held = { name: handle.dataset.handle, dx: x - point[0], dy: y - point[1] };
  handle.focus({ preventScroll: true });
  magnify(held.name);
});
svg.addEventListener("pointermove", (event) => {
  if (!held) return;
  const [x, y] = at(event);
  place(held.name, x + held.dx, y + held.dy);
  magnify(held.name);
});
for (const kind of ["pointerup", "pointercancel"]) {
  svg.addEventListener(kind, () => { held = null; magnify(null); });
}

// Keys ----------------------------------------------------------------------------------------------------------------------

const ARROWS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };

svg.addEventListener("keydown", (event) => {
  const name = event.target.dataset?.handle;
  const arrow = ARROWS[event.key];
  if (!name || !arrow) return;
  event.preventDefault();
  const step = STEP * width * (event.shiftKey ? 10 : 1);
  const [x, y] = pointOf(name);
  place(name, x + arrow[0] * step, y + arrow[1] * step);
  magnify(name);
});
svg.addEventListener("focusout", () => { if (!held) magnify(null); });

draw();

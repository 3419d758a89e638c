// Tracing a piece on squared paper, or over a photograph of its side: places along it, and how thick it is there.
import { bench } from "./form.js";

const SVG = "http://www.w3.org/2000/svg";
const MARGIN_MM = 12, LEAST_HIGH_MM = 40, APART_MM = 2, FEWEST = 3, MOST = 60, INCH_MM = 25.4;
const KEYS = { ArrowUp: [0, 0.5], ArrowDown: [0, -0.5], ArrowRight: [1, 0], ArrowLeft: [-1, 0] };
const NEXT = {
  top: "Tap along its top, from the thick end to the other.",
  thick: "Tap the thick end, where it lies on the board.",
  thin: "Tap the other end, where it lies.",
};

const dialog = () => document.getElementById("trace");
const paper = () => document.getElementById("trace-paper");
const isInches = () => dialog().dataset.unit !== "mm";
const fromUnit = (value) => (isInches() ? value * INCH_MM : value);
const squareMm = () => (isInches() ? INCH_MM / 2 : 10);
const inUnit = (mm) => Number((isInches() ? mm / INCH_MM : mm).toFixed(isInches() ? 2 : 1));
const numberOf = (text) => Number(String(text).replace(",", "."));

let points = [], length = 150, held = null;
let photo = null; // { href, wide, high, matrix }, in mm
let ends = null; // places of the ends that were tapped on a photograph; null once it lies on the line

function add(parent, name, attributes) {
  const element = document.createElementNS(SVG, name);
  for (const [key, value] of Object.entries(attributes)) element.setAttribute(key, value);
  return parent.appendChild(element);
}

const top = () => Math.max(LEAST_HIGH_MM, ends ? length * 0.6 : 0, ...points.map(([, thick]) => thick)) + MARGIN_MM;

function grid(high) {
  let lines = "";
  for (let x = 0; x <= length + 0.1; x += squareMm()) lines += `M${x} 0V${-high}`;
  for (let y = 0; y <= high; y += squareMm()) lines += `M0 ${-y}H${length}`;
  return lines;
}

function draw() {
  const svg = paper(), high = top(), focused = [...svg.querySelectorAll(".trace-point")].indexOf(document.activeElement);
  svg.replaceChildren();
  svg.setAttribute("viewBox", `${-MARGIN_MM} ${-high} ${length + 2 * MARGIN_MM} ${high + MARGIN_MM}`);
  if (photo) {
    const m = photo.matrix;
    add(svg, "image", {
      href: photo.href, width: photo.wide, height: photo.high, transform: `matrix(${m.a} ${m.b} ${m.c} ${m.d} ${m.e} ${m.f})`,
    });
  }
  add(svg, "path", { d: grid(high), class: photo ? "trace-grid trace-grid-over" : "trace-grid" });
  add(svg, "path", { d: `M0 0H${length}`, class: "trace-board" });
  if (points.length > 1) {
    const over = points.map(([x, thick]) => `${x} ${-thick}`).join("L");
    add(svg, "path", { d: `M${points[0][0]} 0L${over}L${points.at(-1)[0]} 0Z`, class: "trace-line" });
  }
  points.forEach(([x, thick], i) => add(svg, "circle", {
    cx: x, cy: -thick, r: Math.max(length / 50, 2), class: "trace-point", tabindex: 0, role: "slider", "data-point": i,
    "aria-label": `Thickness at ${inUnit(x)} ${dialog().dataset.unit}`, "aria-valuenow": inUnit(thick),
  }));
  if (focused >= 0) svg.querySelectorAll(".trace-point")[Math.min(focused, points.length - 1)]?.focus();
  const next = !ends ? "top" : ends.length ? "thin" : "thick";
  document.getElementById("trace-next").textContent = NEXT[next];
  document.getElementById("trace-use").disabled = points.length < FEWEST;
}

function place(x, thick, instead = null) {
  const at = Math.min(Math.max(x, 0), length), high = Math.max(thick, 1);
  points = points.filter((point) => point !== instead && Math.abs(point[0] - at) >= APART_MM);
  const point = [at, high];
  if (points.length < MOST) points.push(point);
  points.sort((a, b) => a[0] - b[0]);
  draw();
  return point;
}

function onPaper(event) {
  const at = new DOMPoint(event.clientX, event.clientY).matrixTransform(paper().getScreenCTM().inverse());
  return [at.x, at.y];
}

// Lay the photograph so that its two ends are the ends of the line, with what was up still up.
function layDown() {
  const [first, second] = ends;
  const flip = second[0] < first[0] ? -1 : 1;
  const dx = flip * (second[0] - first[0]), dy = second[1] - first[1], size = dx * dx + dy * dy;
  const a = (length * dx) / size, b = (-length * dy) / size;
  const turn = new DOMMatrix([a, b, -b, a, 0, 0]).translate(-flip * first[0], -first[1]).scale(flip, 1);
  photo.matrix = turn.multiply(photo.matrix);
  ends = null;
}

function tapped([x, y]) {
  if (!ends) return place(x, -y);
  ends.push([x, y]);
  if (ends.length === 2) layDown();
  return draw();
}

function open() {
  const field = document.getElementById("piece-trace");
  const pairs = (field?.value || "").split(/[,;]/).map((pair) => pair.trim().split(/\s+/).map(numberOf));
  points = pairs.filter((pair) => pair.length === 2 && pair.every(Number.isFinite)).map((pair) => pair.map(fromUnit));
  const long = ["piece-row", "piece-long", "piece-wide"].map((id) => document.getElementById(id))
    .map((input) => fromUnit(numberOf(input?.value || input?.placeholder || "")));
  length = points.length ? points.at(-1)[0] : Math.max(...long.filter(Number.isFinite), 60);
  document.getElementById("trace-length").value = inUnit(length);
  photo = ends = held = null;
  dialog().showModal();
  draw();
}

function longer(event) {
  const wanted = fromUnit(numberOf(event.target.value));
  if (!(wanted >= squareMm() && wanted <= 2000)) return;
  const times = wanted / length;
  points = points.map(([x, thick]) => [x * times, photo ? thick * times : thick]);
  if (photo && !ends) photo.matrix = new DOMMatrix().scale(times, times).multiply(photo.matrix);
  length = wanted;
  draw();
}

function takePhoto(event) {
  const file = event.target.files[0];
  event.target.value = "";
  if (!file) return;
  const reader = new FileReader(), image = new Image();
  reader.onload = () => { image.src = reader.result; };
  image.onload = () => {
    const scale = Math.min(length / image.naturalWidth, (0.6 * length) / image.naturalHeight);
    const high = image.naturalHeight * scale;
    photo = { href: image.src, wide: image.naturalWidth * scale, high, matrix: new DOMMatrix().translate(0, -high) };
    points = [];
    ends = [];
    draw();
  };
  image.onerror = () => {
    document.getElementById("trace-next").textContent = "This file is no picture that the browser can read.";
  };
  reader.readAsDataURL(file);
}

// The two ends first, then in the widest gap, as thick as halfway between its neighbours.
function addPlace() {
  const last = points.at(-1);
  if (!last) return place(0, length / 5);
  if (length - last[0] >= APART_MM) return place(length, last[1]);
  const gaps = points.slice(1).map(([x], i) => x - points[i][0]);
  const i = gaps.indexOf(Math.max(...gaps)), [a, b] = [points[i], points[i + 1]];
  return gaps.length ? place((a[0] + b[0]) / 2, (a[1] + b[1]) / 2) : null;
}

function use() {
  const begins = points[0][0];
  const text = points.map(([x, thick]) => `${inUnit(x - begins)} ${inUnit(thick)}`).join(", ");
  let field = document.getElementById("piece-trace");
  if (!field) {
    field = Object.assign(document.createElement("input"), { type: "hidden", name: "trace" });
    bench().append(field);
  }
  field.value = text;
  const family = document.getElementById("piece-outline");
  family.value = "traced";
  dialog().close();
  family.dispatchEvent(new Event("change", { bubbles: true }));
}

function pointKey(event) {
  const point = points[Number(event.target.dataset?.point)];
  if (!point) return;
  if (event.key === "Delete" || event.key === "Backspace") {
    points = points.filter((other) => other !== point);
    draw();
  } else if (event.key in KEYS) {
    const [along, up] = KEYS[event.key];
    place(point[0] + along, point[1] + up, point);
  } else return;
  event.preventDefault();
}

document.addEventListener("click", (event) => {
  if (event.target.closest("[data-trace]")) open();
});

if (dialog()) {
  const svg = paper();
  svg.addEventListener("pointerdown", (event) => {
    event.preventDefault();
    const point = points[Number(event.target.dataset?.point)];
    if (point && !ends) held = point;
    else tapped(onPaper(event));
  });
  svg.addEventListener("pointermove", (event) => {
    if (!held) return;
    const [x, y] = onPaper(event);
    held = place(x, -y, held);
  });
  for (const name of ["pointerup", "pointercancel", "pointerleave"]) svg.addEventListener(name, () => { held = null; });
  svg.addEventListener("keydown", pointKey);
  document.getElementById("trace-length").addEventListener("change", longer);
  document.getElementById("trace-file").addEventListener("change", takePhoto);
  document.getElementById("trace-add").addEventListener("click", addPlace);
  document.getElementById("trace-use").addEventListener("click", use);
  document.getElementById("trace-clear").addEventListener("click", () => { points = []; photo = ends = null; draw(); });
}

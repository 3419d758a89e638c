// One time cursor for the chart, the cut face, its bands and the words beside them.
import { digits } from "../clock.js";
import { isDragging } from "./drag.js";
import { parsed } from "./form.js";

const DAY_S = 86400;
const cursor = { share: 1, samples: null, face: null };

export function readCurves() {
  cursor.samples = parsed("chart-samples");
  cursor.face = parsed("face-data");
  paint();
}

export function moveBy(share) {
  cursor.share = Math.min(Math.max(cursor.share + share, 0), 1);
  paint();
  scrollIntoSight();
}

// Millimetres to the half, as a cook reads them: "3½", from ten on whole ones.
function halfMm(mm) {
  const halves = mm < 9.75 ? Math.round(mm * 2) : 2 * Math.round(mm);
  const whole = Math.floor(halves / 2);
  return halves % 2 ? `${whole || ""}\u00bd` : String(whole);
}

function daysAndHours(seconds) {
  const hours = Math.floor(Math.round(seconds / 60) / 60);
  return `${Math.floor(hours / 24)} d ${hours % 24} h`;
}

const plotWidth = () => cursor.samples.x[cursor.samples.x.length - 1];
const degrees = (c) => (cursor.face?.fahrenheit ? c * 1.8 + 32 : c).toFixed(1);

function sampleAt(x) {
  const i = cursor.samples.x.findIndex((v) => v >= x - 0.5);
  return i < 0 ? cursor.samples.x.length - 1 : i;
}

function paint() {
  const line = document.getElementById("chart-cursor");
  if (!cursor.samples || !line) return;
  const x = cursor.share * plotWidth();
  const i = sampleAt(x);
  const isAtEnd = cursor.share >= 1;
  const seconds = cursor.samples.t[i];
  const time = seconds < DAY_S ? digits(seconds) : daysAndHours(seconds);
  paintLine(line, x, time, isAtEnd);
  paintDot(x, i, isAtEnd);
  paintRange(x, i, time);
  if (cursor.face) paintFace(time, isAtEnd);
}

function paintLine(line, x, time, isAtEnd) {
  line.setAttribute("transform", `translate(${x.toFixed(1)} 0)`);
  const flag = line.querySelector("g");
  const width = Number(flag.querySelector(".cursor-flag").getAttribute("width"));
  flag.toggleAttribute("hidden", isAtEnd);
  const shift = Math.min(Math.max(0, width / 2 - x), width) || Math.min(0, plotWidth() - width / 2 - x);
  flag.setAttribute("transform", `translate(${shift.toFixed(1)} 0)`);
  document.getElementById("cursor-time").textContent = time;
}

function paintDot(x, i, isAtEnd) {
  const dot = document.getElementById("cursor-core");
  const top = Number(document.getElementById("plot").dataset.top);
  dot.toggleAttribute("hidden", isAtEnd);
  dot.setAttribute("transform", `translate(${x.toFixed(1)} ${(top + cursor.samples.y[i]).toFixed(1)})`);
  const value = dot.querySelector("text");
  value.textContent = degrees(cursor.samples.core[i]);
  const isNearEnd = plotWidth() - x < Number(value.dataset.room);
  value.setAttribute("text-anchor", isNearEnd ? "end" : "start");
  value.setAttribute("x", (isNearEnd ? -1 : 1) * Number(value.dataset.beside));
}

function paintRange(x, i, time) {
  const range = document.getElementById("cursor");
  if (!range) return;
  const { core, outside } = cursor.samples;
  range.value = x;
  range.setAttribute("aria-valuetext", `${time}, core ${degrees(core[i])}, outside ${degrees(outside[i])}`);
}

function paintFace(time, isAtEnd) {
  const { face, share } = cursor;
  document.getElementById("face-when").textContent = isAtEnd ? "at the end" : `at ${time}`;
  const k = Math.round(share * (face.frames.length - 1));
  const colours = face.frames[k].match(/.{6}/g);
  document.querySelectorAll("#cut-face [data-stack] path").forEach((path, n) => {
    const fill = `#${colours[n % colours.length]}`;
    if (path.getAttribute("fill") !== fill) path.setAttribute("fill", fill);
  });
  paintBands(face.bands[k], face.inches);
}

function paintBands(bands, inches) {
  const body = document.getElementById("face-bands");
  if (!body) return;
  const each = body.querySelector(".bands-each");
  const lines = bands.map(([word, mm]) => {
    const line = document.createElement("tr");
    const head = document.createElement("th"), cell = document.createElement("td");
    head.scope = "row";
    head.textContent = word;
    cell.textContent = inches ? (mm / 25.4).toFixed(2) : halfMm(mm);
    line.append(head, cell);
    return line;
  });
  body.replaceChildren(lines[0], each, ...lines.slice(1));
}

// px of the screen to one of the drawing; the drawing's left margin is what its box begins with before 0.
function scaleOf(chart) {
  return chart.getBoundingClientRect().width / chart.viewBox.baseVal.width;
}

function scrollIntoSight() { // a long chain is wider than the window
  const scroll = document.getElementById("work-scroll"), chart = document.getElementById("plan-chart");
  if (!scroll || !chart || scroll.scrollWidth <= scroll.clientWidth) return;
  const x = (cursor.share * plotWidth() - chart.viewBox.baseVal.x) * scaleOf(chart);
  const isInSight = x >= scroll.scrollLeft + 60 && x <= scroll.scrollLeft + scroll.clientWidth - 60;
  if (!isInSight) scroll.scrollLeft = x - scroll.clientWidth / 2;
}

function follow(event) {
  const chart = event.target.closest?.("#plan-chart");
  const isHover = event.pointerType === "touch" && event.type === "pointermove" && !event.buttons;
  if (!chart || !cursor.samples || isHover) return;
  const x = (event.clientX - chart.getBoundingClientRect().left) / scaleOf(chart) + chart.viewBox.baseVal.x;
  cursor.share = Math.min(Math.max(x / plotWidth(), 0), 1);
  paint();
}

document.addEventListener("pointermove", (event) => { if (!isDragging()) follow(event); });
document.addEventListener("pointerdown", follow);
document.addEventListener("pointerout", (event) => {
  const left = event.target.closest?.("#plan-chart") && !event.relatedTarget?.closest?.("#plan-chart");
  if (left && event.pointerType === "mouse") { cursor.share = 1; paint(); }
});
for (const kind of ["input", "change"]) {
  document.addEventListener(kind, (event) => { // the cursor changes nothing in the plan: it does not reach the form
    if (event.target.id !== "cursor") return;
    event.stopImmediatePropagation();
    cursor.share = event.target.value / event.target.max;
    paint();
    scrollIntoSight();
  }, true);
}

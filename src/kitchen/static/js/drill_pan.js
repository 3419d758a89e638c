// The pan of a drill: each place is tapped three times (laid, turned, taken out); the times are sent when all are out.
import { digits } from "./clock.js";

const STATES = ["empty", "first", "second", "out"];
const NEXT = ["lay", "turn", "take out", "done"];
const SVG = "http://www.w3.org/2000/svg";
const RING_PX = 98;
const PLACE_PX = 34;
const FROM_HANDLE = 0.5; // of a place's share: the first lies just past the handle

const pan = document.querySelector(".lay");
const taps = Array.from({ length: Number(pan?.dataset.pieces ?? 0) }, () => []);
let began = null;

function svg(name, attributes) {
  const made = document.createElementNS(SVG, name);
  for (const [key, value] of Object.entries(attributes)) made.setAttribute(key, value);
  return made;
}

function show(place, i) {
  const count = taps[i].length;
  place.setAttribute("class", `lay-place lay-${STATES[count]}`);
  place.setAttribute("aria-label", `Place ${i + 1}: ${NEXT[count]}`);
  place.querySelector("text").textContent = NEXT[count];
}

function tap(place, i) {
  if (taps[i].length >= NEXT.length - 1) return;
  began ??= performance.now();
  taps[i].push(Math.round(performance.now() - began) / 1000);
  show(place, i);
  if (!taps.every((times) => times.length === NEXT.length - 1)) return;
  document.getElementById("lay-taps").value = JSON.stringify(taps);
  document.getElementById("lay-form").submit();
}

// Clockwise as the cook sees it; the handle points down.
function addPlace(i) {
  const angle = Math.PI / 2 + (2 * Math.PI * (i + FROM_HANDLE)) / taps.length;
  const at = `translate(${RING_PX * Math.cos(angle)} ${RING_PX * Math.sin(angle)})`;
  const place = svg("g", { transform: at, tabindex: 0, role: "button", "data-place": i });
  place.append(svg("circle", { r: PLACE_PX }), svg("text", { "text-anchor": "middle", dy: 5 }));
  document.getElementById("lay-places").append(place);
  show(place, i);
  place.addEventListener("pointerdown", () => tap(place, i));
  place.addEventListener("keydown", (event) => {
    if (event.key !== "Enter" && event.key !== " ") return;
    event.preventDefault();
    tap(place, i);
  });
}

if (pan) {
  taps.forEach((_, i) => addPlace(i));
  setInterval(() => {
    if (began === null) return;
    document.getElementById("lay-clock").textContent = digits(Math.floor((performance.now() - began) / 1000));
  }, 200);
}

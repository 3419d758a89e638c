/* Lanes: a bar is dragged along the time axis; the server says what follows, or why it cannot be there. */
(function () {
  "use strict";
  const STEP_S = 60, FAR_PX = 6;
  let drag = null;

  function axis() {
    const chart = document.getElementById("lanes");
    if (!chart) return null;
    const numbers = (name) => chart.dataset[name].split(" ").map(Number);
    return { chart, seconds: numbers("seconds"), x: numbers("x"), left: Number(chart.dataset.left) };
  }

  function between(value, from, to) {
    const last = from.length - 1;
    let i = from.findIndex((v, k) => k < last && value <= from[k + 1]);
    if (i < 0) i = last - 1;
    const share = (value - from[i]) / (from[i + 1] - from[i] || 1);
    return to[i] + share * (to[i + 1] - to[i]);
  }

  function clock(seconds) {
    const at = new Date(seconds * 1000), zone = document.body.dataset.zone || "UTC";
    return at.toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit", timeZone: zone });
  }

  function begin(event) {
    const bar = event.target.closest("[data-bar]");
    if (!bar || event.button) return;
    const at = axis(), box = bar.querySelector("rect");
    drag = { bar, at, box, from: event.clientX, x: Number(box.getAttribute("x")), moved: false, seconds: null };
  }

  function move(event) {
    if (!drag) return;
    const by = event.clientX - drag.from;
    if (!drag.moved && Math.abs(by) < FAR_PX) return;
    drag.moved = true;
    event.preventDefault();
    const x = drag.x + by;
    const exact = between(x - drag.at.left, drag.at.x, drag.at.seconds);
    drag.seconds = Math.round(exact / STEP_S) * STEP_S;
    drag.bar.classList.add("bar-dragged");
    drag.bar.setAttribute("transform", "translate(" + by + " 0)");
    let word = drag.bar.querySelector(".drag-word");
    if (!word) {
      word = document.createElementNS("http://www.w3.org/2000/svg", "text");
      word.setAttribute("class", "drag-word strong");
      word.setAttribute("x", drag.x);
      word.setAttribute("y", Number(drag.box.getAttribute("y")) - 4);
      drag.bar.appendChild(word);
    }
    word.textContent = clock(drag.seconds);
  }

  function drop() {
    if (!drag) return;
    const done = drag;
    drag = null;
    const word = done.bar.querySelector(".drag-word");
    if (word) word.remove();
    done.bar.classList.remove("bar-dragged");
    if (!done.moved || done.seconds === null) return;
    done.bar.removeAttribute("transform");
    const [dish, task, n] = done.bar.dataset.bar.split(":");
    document.addEventListener("click", (event) => { event.preventDefault(); event.stopPropagation(); }, { capture: true, once: true });
    window.setTimeout(() => document.body.click(), 0);
    window.htmx.ajax("POST", document.getElementById("service").dataset.url, {
      target: "#service", swap: "morph:outerHTML",
      values: { dish, task, n, what: "at", value: new Date(done.seconds * 1000).toISOString().replace("Z", "+00:00") },
    });
  }

  function toThePlates() {
    const scroll = document.getElementById("service-scroll");
    if (scroll && !location.search.includes("task=")) scroll.scrollLeft = scroll.scrollWidth;
  }

  document.addEventListener("DOMContentLoaded", toThePlates);
  document.addEventListener("pointerdown", begin);
  document.addEventListener("pointermove", move);
  document.addEventListener("pointerup", drop);
  document.addEventListener("dragstart", (event) => { if (event.target.closest && event.target.closest("[data-bar]")) event.preventDefault(); });
})();

/* The pan of a drill: each place is tapped three times (laid, turned, taken out); the times are sent when all are out. */
(function () {
  "use strict";
  const lay = document.querySelector(".lay");
  if (!lay) return;
  const count = Number(lay.dataset.pieces), places = document.getElementById("lay-places");
  const clock = document.getElementById("lay-clock"), taps = Array.from({ length: count }, () => []);
  const STATES = ["empty", "first", "second", "out"], SAYS = ["lay", "turn", "take out", "done"];
  const NS = "http://www.w3.org/2000/svg", R_PX = 98, SIZE_PX = 34, FROM_HANDLE = 0.5;
  let began = null;

  function show(group, i) {
    group.setAttribute("class", "lay-place lay-" + STATES[taps[i].length]);
    group.setAttribute("aria-label", "Place " + (i + 1) + ": " + SAYS[taps[i].length]);
    group.querySelector("text").textContent = SAYS[taps[i].length];
  }

  function tap(group, i) {
    if (taps[i].length > 2) return;
    if (began === null) began = performance.now();
    taps[i].push(Math.round(performance.now() - began) / 1000);
    show(group, i);
    if (taps.every((row) => row.length === 3)) {
      document.getElementById("lay-taps").value = JSON.stringify(taps);
      document.getElementById("lay-form").submit();
    }
  }

  for (let i = 0; i < count; i += 1) {
    // Clockwise as the cook sees it, the first place just past the handle, which points down.
    const turn = Math.PI / 2 + (2 * Math.PI * (i + FROM_HANDLE)) / count;
    const group = document.createElementNS(NS, "g");
    group.setAttribute("transform", `translate(${R_PX * Math.cos(turn)} ${R_PX * Math.sin(turn)})`);
    group.setAttribute("tabindex", "0");
    group.setAttribute("role", "button");
    group.dataset.place = i;
    const spot = document.createElementNS(NS, "circle"), text = document.createElementNS(NS, "text");
    spot.setAttribute("r", SIZE_PX);
    text.setAttribute("text-anchor", "middle");
    text.setAttribute("dy", "5");
    group.append(spot, text);
    places.append(group);
    show(group, i);
    group.addEventListener("pointerdown", () => tap(group, i));
    group.addEventListener("keydown", (event) => {
      if (event.key === "Enter" || event.key === " ") { event.preventDefault(); tap(group, i); }
    });
  }

  setInterval(() => {
    if (began === null) return;
    const s = Math.floor((performance.now() - began) / 1000);
    clock.textContent = Math.floor(s / 60) + ":" + String(s % 60).padStart(2, "0");
  }, 200);
})();

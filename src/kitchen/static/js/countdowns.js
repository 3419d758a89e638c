// Countdowns, fuses and clocks on the page move between two answers of the server.
import { digits, kitchenNow, timeOfDay } from "./clock.js";

const FUSE_PX_A_MIN = 37.2;

// When a countdown is due: of what comes again and again the next time of it, up to the last.
export function dueOf(element, now) {
  const due = Number(element.dataset.due), every = Number(element.dataset.every) * 1000;
  if (!every || due >= now) return due;
  return Math.min(due + Math.ceil((now - due) / every) * every, Math.max(Number(element.dataset.last), due));
}

function countDown(element, now) {
  const left = (dueOf(element, now) - now) / 1000;
  const time = digits(Math.abs(left));
  const text = Math.round(left) < 0 ? `${time} late` : time;
  if (element.textContent !== text) element.textContent = text;
  element.classList.toggle("long", time.length > 5);
  element.classList.toggle("longest", time.length > 6);
}

function countRounds(element, now) {
  const passed = Math.floor((now - Number(element.dataset.first)) / (Number(element.dataset.every) * 1000)) + 1;
  element.textContent = Math.min(Math.max(passed + 1, 1), Number(element.dataset.of));
}

export function tick() {
  const now = kitchenNow();
  for (const element of document.querySelectorAll("[data-count]")) countDown(element, now);
  for (const element of document.querySelectorAll("[data-again]")) countRounds(element, now);
  for (const element of document.querySelectorAll("[data-fuse]")) {
    element.style.width = `${Math.max(0, (Number(element.dataset.due) - now) / 60000) * FUSE_PX_A_MIN}px`;
  }
  if (!document.body.dataset.zone) return;
  for (const element of document.querySelectorAll("[data-clock]")) element.textContent = timeOfDay(now);
}

document.addEventListener("DOMContentLoaded", () => {
  tick();
  setInterval(tick, 250);
});
document.addEventListener("htmx:afterSwap", tick);

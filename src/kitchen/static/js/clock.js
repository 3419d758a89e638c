// The kitchen's clock, from what the server said last: Date.now() goes on while a tablet sleeps.
const clock = { server: null, local: 0, rate: 1 };
const KEPT = "ember-clock";
let formatter = null;

function setClock(element) {
  if (!element?.dataset.now) return;
  clock.server = Number(element.dataset.now);
  clock.local = Date.now();
  clock.rate = Number(element.dataset.rate || 1);
}

export function kitchenNow() {
  return clock.server === null ? Date.now() : clock.server + (Date.now() - clock.local) * clock.rate;
}

// A span of this device's time, ms, as the kitchen's clock counts it.
export const inKitchenTime = (ms) => ms * clock.rate;

// "19:42" in the kitchen's time zone, of a time in ms.
export function timeOfDay(ms) {
  const timeZone = document.body.dataset.zone;
  if (!formatter && timeZone) {
    formatter = new Intl.DateTimeFormat("en-GB", { hour: "2-digit", minute: "2-digit", timeZone });
  }
  return formatter ? formatter.format(ms) : new Date(ms).toTimeString().slice(0, 5);
}

// "1:05:20", "4:07", "−0:30" of seconds.
export function digits(seconds) {
  const total = Math.abs(Math.round(seconds));
  const sign = seconds < 0 && total ? "\u2212" : "";
  const h = Math.floor(total / 3600), m = Math.floor((total % 3600) / 60), s = String(total % 60).padStart(2, "0");
  return h ? `${sign}${h}:${String(m).padStart(2, "0")}:${s}` : `${sign}${m}:${s}`;
}

export function saveClock() {
  if (clock.server !== null) localStorage.setItem(KEPT, JSON.stringify(clock));
}

// The clock as it was saved; the device's time of that moment, or null where none was saved.
export function restoreClock() {
  const saved = JSON.parse(localStorage.getItem(KEPT) ?? "null");
  if (saved) Object.assign(clock, saved);
  return saved?.local ?? null;
}

document.addEventListener("DOMContentLoaded", () => {
  setClock(document.body);
  setClock(document.getElementById("board"));
});
document.addEventListener("htmx:afterSwap", () => setClock(document.getElementById("board")));

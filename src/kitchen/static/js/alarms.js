// A sound when an action is to be made ready, two when it is due; muted by each person. The rest of the page hears of
// it by the event "action-rings".
import { kitchenNow } from "./clock.js";
import { dueOf } from "./countdowns.js";

const LATE_S = 15; // not for what was due long before this page was opened
const ROUND_LATE_MS = 1500;
let audio = null;
const rung = new Set();

document.addEventListener("pointerdown", () => {
  if (!audio && window.AudioContext) audio = new AudioContext(); // a page may sound once it was touched
});

function beep(times) {
  if (!audio || document.body.dataset.muted) return;
  for (let i = 0; i < times; i += 1) {
    const tone = audio.createOscillator(), gain = audio.createGain();
    const at = audio.currentTime + i * 0.28;
    tone.frequency.value = 880;
    gain.gain.setValueAtTime(0.25, at);
    gain.gain.exponentialRampToValueAtTime(0.001, at + 0.22);
    tone.connect(gain).connect(audio.destination);
    tone.start(at);
    tone.stop(at + 0.24);
  }
}

function sound(card, times) {
  beep(times);
  document.dispatchEvent(new CustomEvent("action-rings", { detail: { card, isDue: times > 1 } }));
}

function once(key, work) {
  if (rung.has(key)) return;
  rung.add(key);
  work();
}

// Of what comes again and again each time sounds.
function ringRound(card) {
  const again = card.querySelector("[data-again]");
  if (!again) return;
  const every = Number(again.dataset.every) * 1000, first = Number(again.dataset.first), now = kitchenNow();
  const passed = Math.floor((now - first) / every);
  if (passed < 0 || passed >= Number(again.dataset.of) || now - (first + passed * every) > ROUND_LATE_MS) return;
  once(`${card.dataset.action.split(":").slice(0, 2).join(":")}:again:${passed}`, () => sound(card, 2));
}

function ring() {
  for (const card of document.querySelectorAll("[data-action]")) {
    const count = card.querySelector("[data-count]");
    if (!count) continue;
    const due = dueOf(count, kitchenNow());
    const left = (due - kitchenNow()) / 1000;
    const early = Number(card.dataset.early);
    ringRound(card);
    for (const [what, when, times] of [["due", 0, 2], ["early", early, 1]]) {
      if (left > when) continue;
      once(`${card.dataset.action}:${what}:${count.dataset.every ? due : ""}`, () => {
        if (left > when - LATE_S) sound(card, times);
      });
    }
    card.classList.toggle("action-due", left <= 0);
    card.classList.toggle("action-early", left > 0 && left <= early);
  }
}

setInterval(ring, 250);

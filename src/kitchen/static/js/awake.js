// The line stays lit, is felt as well as heard, and says the next action aloud where that was asked for on this device.
const SPEAK = "ember-speak";
const speaks = () => localStorage.getItem(SPEAK) === "on" && "speechSynthesis" in window;
let lock = null;

async function stayAwake() {
  if (!navigator.wakeLock || document.hidden || !document.getElementById("board") || (lock && !lock.released)) return;
  try {
    lock = await navigator.wakeLock.request("screen");
  } catch { /* a battery that is low refuses it */ }
}

document.addEventListener("DOMContentLoaded", stayAwake);
document.addEventListener("visibilitychange", stayAwake);

function aloud(words) {
  if (!speaks() || document.body.dataset.muted) return;
  const speech = new SpeechSynthesisUtterance(words);
  speech.lang = "en-GB";
  speechSynthesis.cancel();
  speechSynthesis.speak(speech);
}

// An action is due, or soon: `card` is where it stands on the page.
document.addEventListener("action-rings", (event) => {
  const { card, isDue } = event.detail;
  const touched = navigator.userActivation?.hasBeenActive ?? true; // a page may shake once it was touched
  if (touched && !document.body.dataset.muted) navigator.vibrate?.(isDue ? [220, 90, 220] : [140]);
  const words = card.querySelector("h3, .steps-verb")?.textContent.trim().replace(/\s+/g, " ") ?? "";
  if (words) aloud(isDue ? `${words}, now` : `Soon: ${words}`);
});

document.addEventListener("DOMContentLoaded", () => {
  const box = document.getElementById("speak-here");
  if (!box) return;
  box.checked = localStorage.getItem(SPEAK) === "on";
  box.disabled = !("speechSynthesis" in window);
  box.addEventListener("change", () => {
    localStorage.setItem(SPEAK, box.checked ? "on" : "off");
    if (box.checked) aloud("The next action is said aloud on this device.");
  });
});

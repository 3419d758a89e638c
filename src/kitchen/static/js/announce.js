// Says politely, to whoever does not see it, what changed on the line: the next action, and what runs late.
const POLITE = "announcer";
let saidLast = null;

function region() {
  const known = document.getElementById(POLITE);
  if (known) return known;
  const made = document.createElement("p");
  made.id = POLITE;
  made.className = "visually-hidden";
  made.setAttribute("role", "status");
  document.body.append(made); // outside of the board, which is drawn anew
  return made;
}

function nextWords() {
  const first = document.querySelector(".action-first h3, .steps-verb");
  if (!first) return "";
  const isDue = document.querySelector(".action-first")?.classList.contains("action-due");
  const lanes = [...document.querySelectorAll(".lane-late")].map((lane) => lane.querySelector("h2, h3, .lane-name")?.textContent);
  const late = lanes.filter(Boolean).map((name) => name.trim().replace(/\s+/g, " "));
  const words = first.textContent.trim().replace(/\s+/g, " ");
  return `${isDue ? "Now" : "Next"}: ${words}.${late.length ? ` Late: ${late.join(", ")}.` : ""}`;
}

function announce() {
  const words = nextWords();
  if (!words || words === saidLast) return;
  saidLast = words;
  region().textContent = words;
}

document.addEventListener("DOMContentLoaded", announce);
document.addEventListener("htmx:afterSwap", announce);
document.addEventListener("action-rings", announce);

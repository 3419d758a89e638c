// A photograph is written down on the device before it is sent, and sent again until the server has answered. Before it
// goes out a second time its digest is asked for: nothing is uploaded twice.
import { kitchenNow, timeOfDay } from "./clock.js";
import { csrfToken } from "./csrf.js";
import * as store from "./photo_store.js";

const RETRY_MS = 5000;
const ANSWER_WITHIN_MS = 120000; // twenty megabytes over a galley's Wi-Fi
const MOST_BYTES = 20_000_000;

let queue = [];
let isSending = false;
let problem = "";

const isMine = (photo) => photo.person === (document.body.dataset.person ?? "");
const isNoAnswer = (status) => status === 0 || status === 401 || status === 403 || status >= 500;

async function digestOf(blob) {
  if (!crypto.subtle) return ""; // not over plain HTTP
  const digest = await crypto.subtle.digest("SHA-256", await blob.arrayBuffer());
  return [...new Uint8Array(digest)].map((byte) => byte.toString(16).padStart(2, "0")).join("");
}

function show() {
  const mine = queue.filter(isMine);
  const others = queue.length - mine.length;
  let list = document.getElementById("photos-waiting");
  if (!mine.length && !others && !problem) { list?.remove(); return; }
  if (!list) {
    list = document.createElement("section");
    list.id = "photos-waiting";
    list.className = "taps";
    list.setAttribute("role", "status");
    document.querySelector("main").prepend(list);
  }
  const lines = mine.map((photo) => {
    const time = timeOfDay(photo.at);
    if (!photo.wasTried) return `${time} Sending the photograph…`;
    return `${time} ${photo.name}: photograph kept on this device, sent when the server answers`;
  });
  if (others) lines.push(`${others} taken by somebody else: sent when they sign in here.`);
  if (problem) lines.push(problem);
  list.replaceChildren(...lines.map((text) => {
    const line = document.createElement("p");
    line.className = `tap tap-${text === problem ? "refused" : "waiting"}`;
    line.textContent = text;
    return line;
  }));
}

async function urlOf(photo) {
  const query = new URLSearchParams({ sha256: photo.sha256, cook: photo.fields.cook ?? "" });
  const answer = await fetch(`${photo.known}?${query}`, { signal: AbortSignal.timeout(RETRY_MS) });
  return answer.ok ? (await answer.json()).url : null;
}

// Where the photograph is now; null where it has to wait. Raises the server's words where it was refused.
async function sendOne(photo) {
  if (photo.wasTried && photo.sha256) {
    const there = await urlOf(photo);
    if (there) return there;
  }
  const body = new FormData();
  for (const [name, value] of Object.entries(photo.fields)) body.append(name, value);
  body.set("csrfmiddlewaretoken", csrfToken() ?? "");
  body.append("photo", photo.blob, photo.fileName);
  const answer = await fetch(photo.url, {
    method: "POST", body, redirect: "manual", signal: AbortSignal.timeout(ANSWER_WITHIN_MS),
    headers: { "X-CSRFToken": csrfToken() ?? "", "X-Kept-Tap": String(photo.at) },
  });
  if (isNoAnswer(answer.status) || answer.type === "opaqueredirect") return null;
  if (answer.status === 413) throw new Error("This file is too large for the server.");
  const became = await answer.json();
  if (became.result === "refused") throw new Error(became.why);
  return (photo.sha256 && await urlOf(photo)) || photo.list;
}

async function drop(photo) {
  queue = queue.filter((each) => each !== photo);
  if (store.isOpen() && photo.id !== undefined) await store.deletePhoto(photo.id);
}

async function sendAll() {
  if (isSending || !queue.some(isMine)) return;
  isSending = true;
  let last = null;
  const send = async () => {
    for (const photo of queue.filter(isMine)) {
      let url = null;
      try {
        url = await sendOne(photo);
      } catch (error) {
        if (error instanceof Error && error.name === "Error") {
          problem = error.message;
          await drop(photo);
          continue;
        }
      }
      if (!url) { photo.wasTried = true; break; }
      await drop(photo);
      if (photo.isFresh) last = url;
    }
  };
  try {
    if (navigator.locks) await navigator.locks.request("ember-photos", send); // one tab at a time
    else await send();
  } finally {
    isSending = false;
    show();
  }
  if (last) window.location.assign(last);
}

document.addEventListener("submit", async (event) => {
  const form = event.target.closest("form[data-photo]");
  if (!form) return;
  const input = [...form.querySelectorAll("input[type=file]")].find((each) => each.files.length);
  if (!input) return; // the server says what is missing
  event.preventDefault();
  const [file] = input.files;
  problem = "";
  if (file.size > MOST_BYTES) { problem = "This file is larger than 20 MB. Take the photograph smaller."; show(); return; }
  const fields = {};
  for (const [name, value] of new FormData(form)) if (typeof value === "string") fields[name] = value;
  const photo = {
    url: form.getAttribute("action"), known: "/faces/known/", list: "/faces/", fields, blob: file,
    fileName: file.name || "photo.jpg", at: Math.round(kitchenNow()), person: document.body.dataset.person ?? "",
    name: document.querySelector("h1")?.textContent.trim() ?? "", sha256: await digestOf(file),
  };
  for (const each of form.querySelectorAll("input[type=file]")) each.value = ""; // what was typed stays
  if (store.isOpen()) photo.id = await store.savePhoto(photo);
  photo.isFresh = true;
  queue.push(photo);
  show();
  sendAll();
});

setInterval(sendAll, RETRY_MS);
window.addEventListener("online", sendAll);
document.addEventListener("signed-in", sendAll);

(async () => {
  try {
    await store.openPhotos();
    queue = (await store.savedPhotos()).map((photo) => ({ ...photo, wasTried: true }));
  } catch { /* a browser without a disk of its own: this page alone keeps them */ }
  show();
  sendAll();
})();

// Small things of every page: messages that go by themselves, print, fields that submit, questions before a form.
const MESSAGE_MS = 6000;
const UNDO_MS = 20000; // a message that can be undone stays longer

document.addEventListener("DOMContentLoaded", () => {
  for (const message of document.querySelectorAll(".say:not(.say-error)")) {
    setTimeout(() => message.remove(), message.querySelector("form") ? UNDO_MS : MESSAGE_MS);
  }
});

document.addEventListener("click", (event) => {
  if (event.target.closest("[data-print]")) window.print();
  if (event.target.closest(".say-close")) event.target.closest(".say").remove();
});

document.addEventListener("change", (event) => {
  if (event.target.matches("[data-submit]")) event.target.form.requestSubmit();
});

document.addEventListener("submit", (event) => {
  const { ask } = event.target.dataset;
  if (ask && !window.confirm(ask)) event.preventDefault();
});

document.addEventListener("visibilitychange", () => {
  if (!document.hidden && document.getElementById("board")) htmx.trigger(document.body, "wake");
});

document.addEventListener("DOMContentLoaded", () => {
  // On a phone the strip of pages is longer than the screen.
  document.querySelector(".rail-strip [aria-current]")?.scrollIntoView({ inline: "center", block: "nearest" });
});

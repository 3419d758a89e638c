// The search box over any page: by its link on the rail, or by the key "/".
const TYPES_IN = "input, textarea, select, [contenteditable]";

function openFind(event) {
  const dialog = document.querySelector("[data-find]");
  const link = document.querySelector(".rail-find");
  if (!dialog || !link || dialog.open) return;
  event.preventDefault();
  window.htmx.ajax("GET", link.href, { target: dialog, swap: "innerHTML" }).then(() => {
    if (!dialog.firstElementChild) return; // no answer: the page goes on as it is
    dialog.showModal();
    dialog.querySelector("input").focus();
  });
}

document.addEventListener("keydown", (event) => {
  const open = event.target.closest("dialog[data-find]");
  if (event.key === "Escape" && open) { // a search field would only empty itself
    event.preventDefault();
    open.close();
    return;
  }
  const isPlain = !event.ctrlKey && !event.metaKey && !event.altKey;
  if (event.key === "/" && isPlain && !event.target.closest(TYPES_IN)) openFind(event);
});
document.addEventListener("click", (event) => {
  const isPlain = !event.ctrlKey && !event.metaKey && !event.shiftKey;
  if (isPlain && !event.defaultPrevented && event.target.closest(".rail-find")) openFind(event);
  if (event.target.matches("[data-find]")) event.target.close(); // beside the box
});

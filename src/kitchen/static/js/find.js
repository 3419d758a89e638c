// The search box over any page: by its link on the rail, or by the key "/" or Ctrl+K.
const TYPES_IN = "input, textarea, select, [contenteditable]";

function openFind(event) {
  const dialog = document.querySelector("[data-find]");
  const link = document.querySelector(".rail-find");
  if (!dialog || !link || dialog.open) return;
  event.preventDefault();
  if (dialog.firstElementChild) { // as it was left, ready to be typed over
    dialog.showModal();
    dialog.querySelector("input").select();
    return;
  }
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
    document.activeElement?.blur(); // the next key is for the page
    return;
  }
  const isPlain = !event.ctrlKey && !event.metaKey && !event.altKey;
  const isFree = isPlain && !event.target.closest(TYPES_IN) && !document.getElementById("bench"); // there / finds a cut
  const isCommand = (event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "k";
  if (isCommand || (event.key === "/" && isFree)) openFind(event);
});
document.addEventListener("click", (event) => {
  const isPlain = !event.ctrlKey && !event.metaKey && !event.shiftKey;
  if (isPlain && !event.defaultPrevented && event.target.closest(".rail-find")) openFind(event);
  if (event.target.matches("[data-find]")) event.target.close(); // beside the box
});

// What an answer leaves alone on a page: what is being typed, folds that were opened, and elements with data-morph:
// "never" (it is asked for by itself), "unfocused" (not while the focus is in it), "hidden" (not while it is shown).
const { defaults } = window.Idiomorph;

defaults.ignoreActiveValue = true;

defaults.callbacks.beforeAttributeUpdated = (name, node) => (
  !(name === "open" && node.tagName === "DETAILS" && !node.querySelector(".problem")) // something wrong is shown
);

defaults.callbacks.beforeNodeMorphed = (node) => {
  const when = node.dataset?.morph;
  if (when === "never") return false;
  if (when === "unfocused") return node !== document.activeElement;
  return when !== "hidden" || node.hidden;
};

// A button that is pressed again and again: what it says and sends is the server's, its focus stays.
let focused = "";

document.addEventListener("htmx:beforeSwap", (event) => {
  const button = document.activeElement;
  const isInside = button?.tagName === "BUTTON" && event.detail.target.contains(button);
  focused = isInside ? button.id : "";
  if (isInside) button.blur();
});
document.addEventListener("htmx:afterSwap", () => {
  if (focused) document.getElementById(focused)?.focus();
  focused = "";
});

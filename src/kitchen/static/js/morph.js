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

// A button that is pressed again and again: what it says and sends is the server's, its focus stays, id or not. Heard at
// the window, after every other listener: an answer that is held back or dropped takes no focus away.
let focused = null;

window.addEventListener("htmx:beforeSwap", (event) => {
  const { shouldSwap, target } = event.detail;
  const button = document.activeElement;
  focused = shouldSwap && button?.tagName === "BUTTON" && target.contains(button) ? button : null;
  focused?.blur();
});
document.addEventListener("htmx:afterSwap", () => {
  const button = focused?.isConnected ? focused : focused?.id && document.getElementById(focused.id);
  if (button) button.focus({ preventScroll: true });
  focused = null;
});

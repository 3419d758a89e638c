// Blocks stand over their own columns of a chart: the policy forbids style attributes, not this.
function layColumns() {
  for (const blocks of document.querySelectorAll("[data-columns]")) {
    blocks.style.gridTemplateColumns = blocks.dataset.columns.trim().split(/\s+/).map((w) => `${w}px`).join(" ");
  }
  for (const spans of document.querySelectorAll("[data-shares]")) {
    const shares = spans.dataset.shares.trim().split(/\s+/);
    spans.style.gridTemplateColumns = shares.map((w) => `minmax(0, ${w}fr)`).join(" ");
  }
}

document.addEventListener("DOMContentLoaded", layColumns);
document.addEventListener("htmx:afterSwap", layColumns);

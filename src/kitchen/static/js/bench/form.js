// The bench's form: what it asks of the server, and its fields.
export const bench = () => document.getElementById("bench");

// Ask with a verb of the form ("left:2", "remove:0"); the answer is the whole bench.
export function ask(verb) {
  document.activeElement?.blur?.();
  htmx.ajax("POST", bench().dataset.benchUrl, {
    source: "#bench", target: "#bench", swap: "morph:outerHTML", values: { do: verb },
  });
}

export function setField(id, value) {
  const field = document.getElementById(id);
  if (!field || field.value === String(value)) return;
  field.value = value;
  field.dispatchEvent(new Event("change", { bubbles: true }));
}

// A measure in its field, or the one that is assumed while it is empty.
export const numberIn = (field) => Number((field.value || field.placeholder || "").replace(",", "."));

export const parsed = (id) => JSON.parse(document.getElementById(id)?.textContent || "null");

/* What is typed and opened stays while the design is swapped: remembered before, put back after. */
import { ofDesign, original, put, standing } from "./fields.js";
import { startScrub } from "./scrub.js";

export const unsent = new Map(); // field id → what stands in it
const opened = new Set();
let active = null;
let scrolled = 0;

export function rememberState(sent) {
  unsent.clear();
  document.querySelectorAll("form[data-autosave] [id][name], form[data-keep] [id][name]").forEach((field) => {
    if (field.type === "hidden" || standing(field) === original(field)) return;
    if (!field.form.matches("[data-autosave]")) { unsent.set(field.id, standing(field)); return; }
    const scope = field.form.querySelector("[name=_scope]").value;
    const mine = sent && sent._scope === scope && (sent._fields || "").split(",").includes(field.name);
    const went = mine ? [].concat(sent[field.name] ?? []) : null;
    const same = went && (field.type === "checkbox" ? went.includes(field.value) === field.checked : went[0] === field.value);
    if (!same) unsent.set(field.id, standing(field));
  });
  const field = document.activeElement;
  active = field && field.id && field.closest("#design") ? { id: field.id } : null;
  if (active && field.type === "text") Object.assign(active, { from: field.selectionStart, to: field.selectionEnd });
  opened.clear();
  document.querySelectorAll("details[open][id]").forEach((details) => opened.add(details.id));
  scrolled = window.scrollY;
}

export function restoreState() {
  opened.forEach((id) => {
    const details = document.getElementById(id);
    if (details) details.open = true;
  });
  document.querySelectorAll("details:has([aria-invalid])").forEach((details) => { details.open = true; });
  unsent.forEach((value, id) => {
    const field = document.getElementById(id);
    if (field) put(field, value);
  });
  const field = active && document.getElementById(active.id);
  if (field) {
    field.focus({ preventScroll: true });
    if (field.type === "text" && active.from !== undefined) field.setSelectionRange(active.from, active.to);
  }
  window.scrollTo(0, scrolled);
  startScrub();
}

// a drawing wider than the window stays where it was scrolled to
const boxes = new Map();
document.addEventListener("htmx:beforeSwap", (event) => {
  if (!ofDesign(event)) return;
  document.querySelectorAll("[data-keep-scroll]").forEach((box) => boxes.set(box.id, [box.scrollLeft, box.scrollTop]));
});

export function restoreScroll() {
  document.querySelectorAll("[data-keep-scroll]").forEach((box) => {
    const [left, top] = boxes.get(box.id) || [0, 0];
    box.scrollTo(left, top);
  });
}

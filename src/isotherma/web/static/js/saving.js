/* Nothing typed or clicked is lost while the design is swapped.
   One request for the whole design runs at a time. What is typed meanwhile stays in its field and is
   sent after the answer; what is clicked meanwhile is clicked again on the new page. A part that loads
   by itself (how sure, what a part would change) holds nothing up and moves neither focus nor window. */
import { ofDesign, original, signature, standing } from "./fields.js";
import { rememberState, restoreState, unsent } from "./unsent.js";

const clicked = []; // signatures of forms sent while a request ran
let running = false;
let asks = null; // what a form that only asks was changed to while a request ran
let leaving = null; // what to do when the running request is answered: follow a link, send a plain form

function sendOn() {
  const again = clicked.shift();
  if (again) {
    const form = [...document.querySelectorAll("form[hx-post]")].find((other) => signature(other) === again);
    if (form) { form.requestSubmit(); return; }
  }
  for (const [id, value] of unsent) {
    const field = document.getElementById(id);
    if (field && field.form && !field.form.matches("[data-autosave]")) { unsent.delete(id); continue; } // sent by its own button
    if (field && field === document.activeElement) continue; // still being typed; sent when left
    unsent.delete(id);
    if (field && standing(field) === value && value !== original(field)) {
      field.dispatchEvent(new Event("change", { bubbles: true }));
      return;
    }
  }
}

document.addEventListener("change", (event) => {
  if (!running) return;
  if (event.target.closest("form[data-autosave]")) event.stopImmediatePropagation();
  const form = event.target.closest("form[hx-get]"); // a filter, a tap: what it asks for now is asked next
  if (!form) return;
  event.stopImmediatePropagation();
  asks = { label: form.getAttribute("aria-label"), values: [...new FormData(form)] };
}, true);
function askNext() {
  if (!asks) return false;
  const { label, values } = asks;
  asks = null;
  const form = [...document.querySelectorAll("form[hx-get]")].find((other) => other.getAttribute("aria-label") === label);
  if (!form) return false;
  [...form.elements].filter((field) => field.name && field.type !== "hidden").forEach((field) => {
    if (field.type === "checkbox") field.checked = values.some(([name, value]) => name === field.name && value === field.value);
    else field.value = (values.find(([name]) => name === field.name) || ["", field.value])[1];
  });
  form.requestSubmit();
  return true;
}
document.addEventListener("submit", (event) => {
  if (!running) return;
  event.preventDefault();
  event.stopImmediatePropagation();
  if (event.target.matches("form[hx-post]")) clicked.push(signature(event.target));
  else leaving = () => sendAgain(event.target, event.submitter);
}, true);
document.addEventListener("click", (event) => {
  // the page is left only when the edit under way has been answered, and not when it was refused
  const link = event.target.closest("a[href]");
  if (link && link.matches("[data-cancel]")) return; // what is under way is only a question: it may go
  if (!running || !link || link.hasAttribute("download") || event.ctrlKey || event.metaKey || event.shiftKey) return;
  event.preventDefault();
  if (link.matches("[hx-get]")) event.stopImmediatePropagation();
  leaving = () => { window.location = link.getAttribute("href"); };
}, true);
function sendAgain(form, button) {
  // the answer may have put a new form in the place of the one that was sent
  const same = (other) => signature(other) === signature(form) && other.getAttribute("aria-label") === form.getAttribute("aria-label");
  const current = form.isConnected ? form : [...document.forms].find(same);
  if (!current) return;
  const buttons = [...current.elements].filter((other) => other.type === "submit");
  current.requestSubmit(button && buttons.find((other) => other.name === button.name && other.value === button.value));
}
function leave() {
  if (running || !leaving) return; // what was typed meanwhile goes first
  const go = leaving;
  leaving = null;
  if (!document.querySelector("#design [aria-invalid]")) go();
}
window.addEventListener("pagehide", () => {
  // the last field was never left: send its form on the way out
  document.querySelectorAll("form[data-autosave]").forEach((form) => {
    const fields = [...form.querySelectorAll("[id][name]")];
    if (fields.some((field) => field.type !== "hidden" && standing(field) !== original(field))) {
      navigator.sendBeacon(form.action, new FormData(form));
    }
  });
});
document.addEventListener("focusout", (event) => {
  // a field filled in again by us fires no change of its own when it is left
  const field = event.target;
  if (!running && field.form && field.form.matches("[data-autosave]") && unsent.has(field.id)) {
    unsent.delete(field.id);
    if (standing(field) !== original(field)) field.dispatchEvent(new Event("change", { bubbles: true }));
  }
});
document.addEventListener("htmx:beforeRequest", (event) => { if (ofDesign(event)) running = true; });
document.addEventListener("htmx:beforeSwap", (event) => {
  if (ofDesign(event) && event.detail.shouldSwap) {
    const sent = event.detail.requestConfig.formData;
    const names = [...new Set(sent.keys())];
    rememberState(Object.fromEntries(names.map((name) => [name, name.startsWith("_") ? sent.get(name) : sent.getAll(name)])));
  }
});
document.addEventListener("htmx:afterSettle", (event) => {
  if (!ofDesign(event)) return;
  restoreState();
  running = false;
  if (askNext()) return;
  sendOn();
  leave();
});
document.addEventListener("htmx:afterRequest", (event) => {
  if (ofDesign(event) && (event.detail.failed || !event.detail.xhr || !event.detail.xhr.response)) { running = false; leaving = null; }
});
for (const name of ["htmx:sendError", "htmx:timeout", "htmx:responseError"]) {
  document.addEventListener(name, () => { document.getElementById("failed").hidden = false; });
}
document.addEventListener("htmx:afterRequest", (event) => {
  if (event.detail.successful) document.getElementById("failed").hidden = true;
});

document.addEventListener("DOMContentLoaded", () => {
  // what was typed and left before these scripts had come is sent now
  document.querySelectorAll("form[hx-trigger] [id][name]").forEach((field) => {
    if (field.type === "hidden" || field === document.activeElement || standing(field) === original(field)) return;
    field.dispatchEvent(new Event("change", { bubbles: true }));
  });
});

/* Long work that a part of the page waits for: how far it is, and a button that ends it. */
import { ofDesign } from "./fields.js";

const asking = new Map(); // boxes that wait, with their timer and request
document.addEventListener("htmx:beforeRequest", (event) => {
  const box = event.detail.elt;
  const told = box.querySelector("[data-progress]");
  if (!told) return;
  box.querySelector("[data-stop]").hidden = false;
  const timer = setInterval(async () => {
    const answer = await fetch(told.dataset.progress);
    if (answer.ok && asking.has(box)) told.textContent = await answer.text();
  }, 700);
  asking.set(box, { timer, request: event.detail.xhr });
});
const askedEnough = (box) => {
  const { timer, request } = asking.get(box) || {};
  clearInterval(timer);
  asking.delete(box);
  return request;
};
// a page that is made anew asks again: what was asked for the old one is not run to its end
document.addEventListener("htmx:beforeSwap", (event) => {
  if (!ofDesign(event) || !event.detail.shouldSwap) return;
  [...asking.keys()].forEach((box) => {
    const request = askedEnough(box);
    request.onabort = null;
    request.abort();
  });
});
document.addEventListener("htmx:afterRequest", (event) => { askedEnough(event.detail.elt); });
document.addEventListener("click", (event) => {
  const stop = event.target.closest("[data-stop]");
  if (!stop) return;
  const box = stop.closest("[hx-get]");
  const request = askedEnough(box);
  if (request) {
    request.onabort = null; // that it ends is what was asked for, and no fault
    request.abort();
  }
  box.classList.remove("htmx-request");
  stop.hidden = true;
  box.querySelector("[data-progress]").textContent = "Stopped.";
});

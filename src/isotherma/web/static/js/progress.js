/* Long work that a part of the page waits for: how far it is, and a button that ends it. */

const asking = new WeakMap();
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

/* Sentences that cards ask for once the page stands: two at a time, ended when their reader leaves. */

const AT_ONCE = 2;

function startAsking() {
  const waiting = [...document.querySelectorAll("[data-asks]")];
  const next = async () => {
    const place = waiting.shift();
    if (!place) return;
    const path = place.dataset.asks;
    delete place.dataset.asks;
    if (place.isConnected) {
      try {
        const answer = await fetch(path, { headers: { "HX-Request": "true" } });
        if (answer.ok && place.isConnected) place.innerHTML = await answer.text();
      } catch {
        // the reader has left, or the server has: the link still stands
      }
    }
    await next();
  };
  for (let at = 0; at < AT_ONCE; at += 1) next();
}

document.addEventListener("DOMContentLoaded", startAsking);
document.addEventListener("htmx:afterSettle", (event) => { if (event.detail.elt.querySelector("[data-asks]") || event.detail.elt.id === "design") startAsking(); });

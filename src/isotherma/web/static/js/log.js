/* The log at the tap: a stopwatch with a bucket, and readings that wait for the network. */

const PREFIX = "isotherma-unsent:";
let since = 0;
let ran = 0;
let ticking = 0;

function shown(seconds) {
  return `${seconds.toFixed(1)} s`;
}

function watchOf(target) {
  return target.closest("[data-watch]");
}

function tick(watch) {
  const clock = watch.querySelector("[data-watch-clock]");
  clock.textContent = shown((performance.now() - since) / 1000);
  ticking = requestAnimationFrame(() => { if (watch.isConnected) tick(watch); });
}

function startOrStop(watch, button) {
  if (button.textContent === "Start") {
    since = performance.now();
    button.textContent = "Stop";
    watch.querySelector("[data-watch-use]").disabled = true;
    tick(watch);
    return;
  }
  cancelAnimationFrame(ticking);
  ran = (performance.now() - since) / 1000;
  watch.querySelector("[data-watch-clock]").textContent = shown(ran);
  button.textContent = "Start";
  watch.querySelector("[data-watch-use]").disabled = false;
}

function intoForm(watch) {
  const litres = Number(watch.querySelector("[data-watch-litres]").value.replace(",", "."));
  const value = document.getElementById("log-value");
  if (!(litres > 0) || !(ran > 0)) return;
  document.getElementById("log-quantity").value = watch.querySelector("[data-watch-outlet]").value;
  value.value = `${((60 * litres) / ran).toFixed(2)} L/min`;
  document.getElementById("log-method").value = `bucket of ${litres} L in ${ran.toFixed(1)} s`;
  document.getElementById("log-kind").value = "flow";
  value.focus();
}

document.addEventListener("click", (event) => {
  const watch = watchOf(event.target);
  if (!watch) return;
  if (event.target.matches("[data-watch-run]")) startOrStop(watch, event.target);
  if (event.target.matches("[data-watch-use]")) intoForm(watch);
});

// --- what the network did not take is kept on this device and sent later ---

function keyOf(form) {
  return PREFIX + new URL(form.action).pathname;
}

function kept(key) {
  try {
    return JSON.parse(localStorage.getItem(key)) ?? [];
  } catch {
    return [];
  }
}

function say(words) {
  const line = document.querySelector("[data-unsent-words]");
  if (!line) return;
  line.hidden = !words;
  line.textContent = words;
}

function tell(form) {
  const count = kept(keyOf(form)).length;
  say(count ? `No network: ${count === 1 ? "one reading is" : `${count} readings are`} kept on this device and will be sent.` : "");
}

document.addEventListener("htmx:configRequest", (event) => {
  if (event.target.matches?.("form[data-unsent]")) event.detail.parameters.sent = crypto.randomUUID();
});

document.addEventListener("htmx:sendError", (event) => {
  const form = event.target;
  if (!form.matches?.("form[data-unsent]")) return;
  const typed = Object.fromEntries(new FormData(form));
  typed.sent = event.detail.requestConfig.parameters.sent ?? crypto.randomUUID();
  try {
    localStorage.setItem(keyOf(form), JSON.stringify([...kept(keyOf(form)), typed]));
    form.querySelector("[name=value]").value = "";
    tell(form);
  } catch {
    say("No network, and nothing can be kept on this device: leave this page open and send it again.");
  }
});

async function sendKept() {
  const form = document.querySelector("form[data-unsent]");
  if (!form) return;
  const key = keyOf(form);
  for (const typed of kept(key)) {
    try {
      const answer = await fetch(form.action, { method: "POST", body: new URLSearchParams(typed), redirect: "manual" });
      if (answer.status >= 500) break;
    } catch {
      break;
    }
    localStorage.setItem(key, JSON.stringify(kept(key).filter((one) => one.sent !== typed.sent)));
  }
  tell(form);
}

window.addEventListener("online", sendKept);
document.addEventListener("htmx:afterSettle", () => { const form = document.querySelector("form[data-unsent]"); if (form) tell(form); });
sendKept();

// --- a box of probes is listened to while its page is open ---

const SAYS = {
  silent: "The box says nothing; still listening.",
  gone: "The box is gone; calling it again every two seconds.",
  rubbish: "The box sends what cannot be read; that is left out.",
};
let source = null;
let newest = 0;
let missed = 0;

function hear() {
  const panel = document.querySelector("[data-probe]");
  if (source && (!panel || source.panel !== panel)) {
    source.close();
    source = null;
  }
  if (!panel || source) return;
  const state = panel.querySelector("[data-probe-state]");
  state.textContent = "Listening.";
  missed = 0;
  source = new EventSource(panel.dataset.probe);
  source.panel = panel;
  for (const [name, words] of Object.entries(SAYS)) {
    source.addEventListener(name, () => { state.textContent = words; });
  }
  source.addEventListener("live", (event) => {
    const told = JSON.parse(event.data);
    newest = told.n;
    missed += told.lost;
    state.textContent = `Line ${told.n}.${missed ? ` ${missed} seconds never came.` : ""}`;
    for (const [key, words] of Object.entries(told.values)) {
      const cell = panel.querySelector(`[data-channel="${key}"]`);
      if (cell) cell.textContent = words;
    }
  });
  source.onerror = () => { state.textContent = "Isotherma does not answer; trying again."; };
}

document.addEventListener("click", (event) => {
  if (event.target.matches("[data-probe-first]")) document.getElementById("keep-first").value = newest;
  if (event.target.matches("[data-probe-last]")) document.getElementById("keep-last").value = newest;
});
document.addEventListener("htmx:afterSettle", hear);
hear();

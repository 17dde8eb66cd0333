/* A long file of readings: told how far it is, line by line, while it is read. */

function told(form, words, share) {
  const bar = form.querySelector("progress");
  bar.hidden = false;
  if (share === null) bar.removeAttribute("value");
  else bar.value = share;
  form.querySelector("[data-followed-words]").textContent = words;
}

async function follow(form) {
  const answer = await fetch(form.action, {
    method: "POST", body: new FormData(form), headers: { Accept: "application/x-ndjson" },
  });
  const type = answer.headers.get("Content-Type") || "";
  if (!answer.ok || !type.startsWith("application/x-ndjson")) return false;
  const reader = answer.body.pipeThrough(new TextDecoderStream()).getReader();
  let rest = "";
  for (;;) {
    const { done, value } = await reader.read();
    if (done) return false; // it ended before it was kept
    const lines = (rest + value).split("\n");
    rest = lines.pop();
    for (const line of lines) {
      const said = JSON.parse(line);
      if (said.go) { location.assign(said.go); return true; }
      if (said.refused) return false;
      told(form, `${said.done} of ${said.whole} rows read`, said.done / said.whole);
    }
  }
}

document.addEventListener("submit", async (event) => {
  const form = event.target;
  if (!form.matches("[data-followed]") || form.dataset.plain) return;
  event.preventDefault();
  told(form, "It is sent", null);
  let went = false;
  try { went = await follow(form); } catch { went = false; }
  if (went) return;
  // whatever is wrong, the page itself says it, with all that was typed
  form.dataset.plain = "yes";
  form.submit();
});

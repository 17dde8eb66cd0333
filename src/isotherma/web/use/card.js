"use strict";
(function () {
  const card = document.getElementById("card");
  const takes = Number(card.dataset.takes);
  const wanted = card.dataset.wanted === "" ? null : Number(card.dataset.wanted);
  const acts = Array.from(document.querySelectorAll("li[data-seconds]"));
  let hot = 0;

  function begin() {
    const now = Date.now() / 1000;
    hot = now + takes;
    if (wanted === null) return;
    const day = new Date();
    day.setHours(0, 0, 0, 0);
    let at = day.getTime() / 1000 + wanted;
    if (at - takes < now - 60) at += 86400; // too late for today: it is tomorrow's
    hot = at;
  }

  function words(left) {
    const whole = Math.max(0, Math.round(left));
    const hours = Math.floor(whole / 3600);
    const minutes = String(Math.floor((whole % 3600) / 60)).padStart(hours ? 2 : 1, "0");
    const seconds = String(whole % 60).padStart(2, "0");
    return (hours ? hours + ":" : "") + minutes + ":" + seconds;
  }

  function tick() {
    const now = Date.now() / 1000;
    let next = null;
    acts.forEach(function (act) {
      const left = hot + Number(act.dataset.seconds) - now;
      act.classList.toggle("over", left < -1);
      if (left >= -1 && next === null) next = { left: left, act: act };
    });
    const clock = document.getElementById("clock");
    const what = document.getElementById("act");
    clock.textContent = next === null ? "0:00" : words(next.left);
    what.textContent = next === null ? "That was all of it." : next.act.dataset.words;
  }

  document.getElementById("again").addEventListener("click", function () { begin(); tick(); });
  begin();
  tick();
  setInterval(tick, 250);
}());

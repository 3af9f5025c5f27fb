"use strict";
(() => {
  const media = document.getElementById("media"), shown = document.getElementById("shown");
  const captions = JSON.parse(document.getElementById("captions").textContent);
  const articles = [...document.querySelectorAll("article")];
  const words = articles.map(a => [...a.getElementsByTagName("i")]);
  const times = words.map(list => list.map(w => +w.dataset.t));
  let language = 0, now = null, touched = 0;
  const before = (list, value) => { let a = 0, b = list.length; while (a < b) { const m = (a + b) >> 1; if (list[m] <= value) a = m + 1; else b = m; } return a - 1; };
  const follow = () => {
    const ms = media.currentTime * 1000, at = before(times[language], ms), word = at < 0 ? null : words[language][at];
    if (word !== now) {
      if (now) now.classList.remove("now");
      if (word) { word.classList.add("now"); if (!media.paused && Date.now() - touched > 4000) { const r = word.getBoundingClientRect(); if (r.bottom > innerHeight - 60 || r.top < 120) word.scrollIntoView({block: "center"}); } }
      now = word;
    }
    const table = captions[language] || [], starts = table.starts || (table.starts = table.map(c => c[0])), nth = before(starts, ms);
    const text = nth >= 0 && ms < table[nth][1] ? table[nth][2] : "";
    if (shown.dataset.text !== text) { shown.dataset.text = text; shown.textContent = ""; if (text) { const s = document.createElement("span"); s.textContent = text; shown.append(s); } }
  };
  const seek = ms => { if (!media) return; media.currentTime = ms / 1000; media.play().catch(() => {}); follow(); };
  document.addEventListener("click", e => { const t = e.target.closest("[data-t]"); if (t) { e.preventDefault(); seek(+t.dataset.t); } });
  for (const kind of ["wheel", "touchmove"]) addEventListener(kind, () => { touched = Date.now(); }, {passive: true});
  if (media) {
    const tick = () => { follow(); if (!media.paused) requestAnimationFrame(tick); };
    media.addEventListener("play", tick);
    for (const kind of ["seeked", "timeupdate", "pause"]) media.addEventListener(kind, follow);
    media.addEventListener("error", () => { document.getElementById("away").hidden = false; });
    const wanted = /#t=(\d+)/.exec(location.hash); if (wanted) media.currentTime = +wanted[1];
  }
  const choice = document.getElementById("language");
  if (choice) choice.addEventListener("change", () => { articles[language].hidden = true; language = +choice.value; articles[language].hidden = false; now = null; look(); if (media) follow(); });
  const field = document.getElementById("search"), found = document.getElementById("found");
  let hits = [], place = -1, texts = [];
  const plain = s => s.normalize("NFKD").replace(/[\u0300-\u036f]/g, "").toLowerCase();
  const look = () => {
    for (const w of hits) w.classList.remove("hit");
    hits = []; place = -1;
    const wanted = plain(field.value).split(/\s+/).filter(Boolean);
    if (wanted.length) {
      const list = texts[language] || (texts[language] = words[language].map(w => plain(w.textContent)));
      for (let i = 0; i + wanted.length <= list.length; i++) if (wanted.every((w, k) => list[i + k].includes(w))) for (let k = 0; k < wanted.length; k++) hits.push(words[language][i + k]);
      for (const w of hits) w.classList.add("hit");
      hits.step = wanted.length;
    }
    found.textContent = wanted.length ? `${hits.length / (hits.step || 1)} found` : "";
  };
  let waiting = 0;
  field.addEventListener("input", () => { clearTimeout(waiting); waiting = setTimeout(look, 120); });
  field.addEventListener("keydown", e => { if (e.key === "Enter" && hits.length) { place = (place + hits.step * (e.shiftKey ? -1 : 1) + hits.length) % hits.length; if (place < 0) place = 0; hits[place].scrollIntoView({block: "center"}); touched = Date.now(); } });
  const theme = document.getElementById("theme");
  const dress = night => { document.documentElement.classList.toggle("night", night); theme.textContent = night ? "Day" : "Night"; };
  dress(matchMedia("(prefers-color-scheme: dark)").matches);
  theme.addEventListener("click", () => dress(!document.documentElement.classList.contains("night")));
  addEventListener("keydown", e => {
    if (!media || e.target.closest("input,select,button,video,audio") || e.ctrlKey || e.metaKey || e.altKey) return;
    if (e.key === " ") { e.preventDefault(); if (media.paused) media.play(); else media.pause(); }
    else if (e.key === "ArrowLeft") media.currentTime -= 5;
    else if (e.key === "ArrowRight") media.currentTime += 5;
    else if (e.key === "/") { e.preventDefault(); field.focus(); }
  });
})();

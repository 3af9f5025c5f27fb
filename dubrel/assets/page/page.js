"use strict";
(() => {
  const media = document.getElementById("media"), shown = document.getElementById("shown");
  const captions = JSON.parse(document.getElementById("captions").textContent);
  const articles = [...document.querySelectorAll("article")];
  let language = 0, now = null, touched = 0;
  const before = (list, value) => { let a = 0, b = list.length; while (a < b) { const m = (a + b) >> 1; if (list[m] <= value) a = m + 1; else b = m; } return a - 1; };
  // Paragraphs are known from the start, their words only when they are needed: three hours open as fast as three minutes.
  const texts = articles.map(article => {
    const rows = [...article.getElementsByTagName("p")];
    return {rows, starts: rows.map(p => +p.querySelector("a").dataset.t), words: new Map(), plain: new Map()};
  });
  const wordsOf = (text, nth) => {
    let list = text.words.get(nth);
    if (!list) { const words = [...text.rows[nth].getElementsByTagName("i")]; list = {words, times: words.map(w => +w.dataset.t)}; text.words.set(nth, list); }
    return list;
  };
  const wordAt = ms => {
    const text = texts[language], nth = before(text.starts, ms);
    if (nth < 0) return null;
    const list = wordsOf(text, nth), at = before(list.times, ms);
    return at < 0 ? null : list.words[at];
  };
  const follow = () => {
    const ms = media.currentTime * 1000, word = wordAt(ms);
    if (word !== now) {
      if (now) now.classList.remove("now");
      if (word) { word.classList.add("now"); if (!media.paused && Date.now() - touched > 4000) { const r = word.getBoundingClientRect(); if (r.bottom > innerHeight - 60 || r.top < 120) word.scrollIntoView({block: "center"}); } }
      now = word;
    }
    const table = captions[language] || [], starts = table.starts || (table.starts = table.map(c => c[0])), nth = before(starts, ms);
    const row = nth >= 0 && ms < table[nth][1] ? table[nth] : null, text = row ? row[2] : "";
    if (shown.dataset.text !== text || caption !== row) {
      shown.dataset.text = text; shown.textContent = ""; caption = row; moving = [];
      if (text) { const s = document.createElement("span"); if (row[3] && !still.matches) spell(s, row[3]); else s.textContent = text; shown.append(s); }
    }
    if (moving.length) move(ms, row[4]);
  };
  // Words that move, for those who have not asked for less movement.
  const still = matchMedia("(prefers-reduced-motion: reduce)");
  let caption = null, moving = [];
  still.addEventListener("change", () => { caption = null; if (media) follow(); });
  const spell = (into, lines) => lines.forEach((line, nth) => {
    if (nth) into.append("\n");
    for (const [word, comes, from, to] of line) {
      const bare = word.trimStart(), w = document.createElement("b");
      into.append(word.slice(0, word.length - bare.length), w);
      w.textContent = bare; moving.push({w, comes, from, to});
    }
  });
  const move = (ms, [colour, box, bold, ruled, larger, dimmed]) => {
    for (const {w, comes, from, to} of moving) {
      const said = from <= ms && ms < to, s = w.style;
      s.visibility = comes <= ms ? "" : "hidden";
      s.color = said ? colour : ""; s.background = said ? box : ""; s.fontWeight = said && bold ? "700" : "";
      s.textDecoration = said && ruled ? "underline" : ""; s.fontSize = said && larger ? `${100 + larger}%` : "";
      s.opacity = !said && to <= ms && dimmed ? 1 - dimmed : "";
    }
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
  let hits = [], step = 1, place = -1, search = 0;
  const plain = s => (/^[\x00-\x7f]*$/.test(s) ? s : s.normalize("NFKD").replace(/[\u0300-\u036f]/g, "")).toLowerCase();
  const plainOf = (text, nth) => {
    let list = text.plain.get(nth);
    if (!list) { list = wordsOf(text, nth).words.map(w => plain(w.textContent)); text.plain.set(nth, list); }
    return list;
  };
  // What takes long is done in slices, each shorter than a blink.
  const sliced = (count, step, done, number) => {
    let nth = 0;
    const slice = () => { if (number !== search) return; const end = performance.now() + 12; while (nth < count && performance.now() < end) step(nth++); if (nth < count) setTimeout(slice, 0); else done(); };
    slice();
  };
  const idle = window.requestIdleCallback || (work => setTimeout(() => work({timeRemaining: () => 8}), 50));
  const prepare = nth => idle(left => { while (nth < texts[0].rows.length && left.timeRemaining() > 4) plainOf(texts[0], nth++); if (nth < texts[0].rows.length) prepare(nth); });
  prepare(0);
  const look = () => {
    const number = ++search, text = texts[language], wanted = plain(field.value).split(/\s+/).filter(Boolean), old = hits, marked = [];
    hits = []; place = -1; step = Math.max(1, wanted.length); found.textContent = "";
    sliced(old.length, nth => old[nth].classList.remove("hit"), () => {
      if (!wanted.length) return;
      sliced(text.rows.length, nth => {
        const list = plainOf(text, nth);
        for (let i = 0; i + wanted.length <= list.length; i++) if (wanted.every((w, k) => list[i + k].includes(w))) for (let k = 0; k < wanted.length; k++) marked.push(wordsOf(text, nth).words[i + k]);
      }, () => {
        hits = marked; found.textContent = `${hits.length / step} found`;
        sliced(hits.length, nth => hits[nth].classList.add("hit"), () => {}, number);
      }, number);
    }, number);
  };
  let waiting = 0;
  field.addEventListener("input", () => { clearTimeout(waiting); waiting = setTimeout(look, 120); });
  field.addEventListener("keydown", e => { if (e.key === "Enter" && hits.length) { place = place < 0 ? 0 : (place + step * (e.shiftKey ? -1 : 1) + hits.length) % hits.length; hits[place].scrollIntoView({block: "center"}); touched = Date.now(); } });
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

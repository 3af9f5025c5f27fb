"use strict";
(() => {
  const data = JSON.parse(document.getElementById("said").textContent);
  const field = document.getElementById("q"), list = document.getElementById("found");
  const many = document.getElementById("many"), all = document.getElementById("episodes");
  const most = 200;
  const plain = text => text.normalize("NFD").replace(/\p{M}/gu, "").toLowerCase();
  let folded = null;
  const clock = s => [Math.floor(s / 3600), Math.floor(s / 60) % 60, s % 60]
    .map((one, nth) => nth ? String(one).padStart(2, "0") : one).join(":").replace(/^0:0?/, "");
  const add = (to, tag, text) => { const made = document.createElement(tag); made.textContent = text; to.append(made); return made; };
  const marked = (to, text, words) => {
    const low = plain(text), same = low.length === text.length;
    let at = 0;
    const spans = !same ? [] : words.flatMap(word => {
      const found = [];
      for (let k = low.indexOf(word); k >= 0; k = low.indexOf(word, k + word.length)) found.push([k, k + word.length]);
      return found;
    }).sort((a, b) => a[0] - b[0]);
    for (const [begin, end] of spans) {
      if (begin < at) continue;
      to.append(text.slice(at, begin)); add(to, "mark", text.slice(begin, end)); at = end;
    }
    to.append(text.slice(at));
  };
  const find = () => {
    const words = plain(field.value).split(/\s+/).filter(Boolean);
    list.replaceChildren();
    list.hidden = !words.length; all.hidden = !!words.length;
    if (!words.length) { many.textContent = ""; return; }
    folded = folded || data.said.map(row => plain(row[4]));
    let count = 0;
    for (let nth = 0; nth < folded.length; nth++) {
      if (!words.every(word => folded[nth].includes(word))) continue;
      if (++count > most) continue;
      const [episode, second, who, language, text] = data.said[nth], one = data.episodes[episode];
      const item = add(list, "li", ""), link = add(item, one.page ? "a" : "div", "");
      if (one.page) link.href = one.page + "#t=" + second;
      const where = [String(one.n).padStart(2, "0") + " " + one.title, clock(second), data.names[who] || data.languages[language]];
      add(link, "p", where.filter(Boolean).join(" · "));
      const said = add(link, "p", ""); said.dir = "auto"; said.lang = data.tags[language];
      marked(said, text, words);
    }
    many.textContent = count === 0 ? "Nothing found." : count === 1 ? "1 place" : count > most ? `The first ${most} of ${count} places` : `${count} places`;
  };
  let waits = 0;
  field.addEventListener("input", () => { clearTimeout(waits); waits = setTimeout(find, 120); });
  field.addEventListener("keydown", event => { if (event.key === "Escape") { field.value = ""; find(); } });
})();

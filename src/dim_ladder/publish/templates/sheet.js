"use strict";
// The page looks up what it carries: a piece for every size, ease and fastening, its cuts for every chance, and every sentence in
// every school. What was chosen and how far one has tied survive a reload where the browser keeps such things.
(function () {
  const source = document.getElementById("data");
  if (!source) return;
  const data = JSON.parse(source.textContent);
  const $ = (id) => document.getElementById(id);
  const parts = Array.from(document.querySelectorAll(".part"));
  const key = "dim-ladder:" + document.title;
  const stored = (name) => { try { return JSON.parse(localStorage.getItem(key + name)) || {}; } catch (e) { return {}; } };
  const store = (name, value) => { try { localStorage.setItem(key + name, JSON.stringify(value)); } catch (e) { /* not kept */ } };
  const INCH = 25.4;
  const OWN = "own";

  const option = (select, value, text) => {
    const o = document.createElement("option");
    o.value = value;
    o.textContent = text;
    select.appendChild(o);
  };
  const system = () => ($("units").value === "imperial" ? 1 : 0);
  const unit = () => (system() ? INCH : 10);
  const shown = (mm) => String(Math.round((mm / unit()) * 1000) / 1000);

  // What was set, in whole millimetres.
  const state = Object.assign(
    { size: data.sizes.length ? data.sizes[0].name : OWN, own: data.sizes.length ? data.sizes[0].mm : data.tables[0].low, ease: data.ease,
      cord: 0, closing: data.fastening, risk: data.risk, units: data.units, voice: data.voice, lie: data.lie },
    stored(":set"));

  function fill() {
    data.sizes.forEach((s) => option($("size"), s.name, s.name));
    option($("size"), OWN, "another");
    data.tables.forEach((t, i) => option($("cord"), String(i), t.cord));
    data.fastenings.forEach((f) => option($("closing"), f.key, f.words));
    data.risks.forEach((r, i) => option($("risk"), String(i), r.words));
    $("ease-row").hidden = !data.eases;
    $("closing-row").hidden = !data.fastenings.length;
    $("cord-row").hidden = data.tables.length < 2;
    $("set").hidden = false;
    $("answer").hidden = false;
  }

  function adds() {
    const f = data.fastenings.find((x) => x.key === state.closing);
    return f ? f.mm : 0;
  }

  const table = () => data.tables[state.cord];
  // What is looked up besides the size.
  const besides = () => (data.eases ? state.ease : 0) - (data.fastenings.length ? adds() : 0);

  function sizeMm() {
    const s = data.sizes.find((x) => x.name === state.size);
    return s ? s.mm : state.own;
  }

  // The piece of a size, or -1. Where every size is a piece of its own, the nearest that was worked out.
  function pieceOf() {
    const t = table(), i = Math.round((sizeMm() + besides() - t.low) / t.step);
    return i >= 0 && i < t.index.length ? t.index[i] : -1;
  }

  // By how much whole units miss what was asked for.
  function off(piece) {
    if (!data.misses) return "";
    const miss = piece.mm - table().around - sizeMm() - besides();
    if (Math.abs(miss) < 0.5) return ", exact";
    const word = data.target === "girth" ? (miss > 0 ? "wider" : "tighter") : miss > 0 ? "longer" : "shorter";
    const by = Math.round(Math.abs(miss));
    return ", " + (system() ? shown(by) + " in " : by < 100 ? by + " mm " : shown(by) + " cm ") + word;
  }

  function cell(row, text, mm) {
    const td = document.createElement("td");
    td.textContent = text;
    if (mm !== undefined) { td.className = "num"; td.dataset.mm = String(mm); }
    row.appendChild(td);
  }

  function answer(at) {
    const body = $("yours").tBodies[0];
    body.textContent = "";
    if (at < 0) {
      const low = table().low - besides(), high = low + (table().index.length - 1) * table().step;
      $("made").textContent = "This size cannot be made from this page: it reaches from " + shown(low) + " to " + shown(high) + (system() ? " in." : " cm.");
      return;
    }
    const piece = table().pieces[at], risk = piece.risks[state.risk];
    const counts = Object.entries(piece.counts).map(([n, k]) => k + " × " + n).join(", ");
    const time = piece.minutes ? " It takes " + piece.minutes + "." : "";
    $("made").textContent = counts + "; tied " + piece.length[system()] + off(piece) + ". A piece runs short: " + risk.chance + "." + time;
    risk.cuts.forEach((c) => {
      const row = document.createElement("tr");
      cell(row, c.cord);
      cell(row, c.cut[system()], c.mm);
      cell(row, c.fold[system()]);
      cell(row, c.chance);
      body.appendChild(row);
    });
  }

  const applies = (el, way) => el.dataset.ways === undefined || el.dataset.ways.split(" ").includes(String(way));

  function words(at) {
    const said = data.words[state.voice + " " + state.lie], own = data.words[data.voice + " " + data.lie];
    const way = at < 0 ? -1 : table().ways[at];
    $("hanging").textContent = said.hang;
    $("glossary").replaceChildren(...said.words.flatMap(([word, meaning]) => [["dt", word], ["dd", meaning]]).map(([tag, text]) => {
      const el = document.createElement(tag);
      el.textContent = text;
      return el;
    }));
    parts.forEach((part, p) => {
      const times = part.querySelector(".times");
      if (times) {
        if (!times.dataset.plain) times.dataset.plain = times.textContent;
        const n = at < 0 ? undefined : table().pieces[at].counts[part.dataset.name];
        times.textContent = n === undefined ? times.dataset.plain : n === 1 ? "once" : n + " times";
      }
      [".steps > li", ".begin", ".again li"].flatMap((kind) => Array.from(part.querySelectorAll(kind))).forEach((el, k) => {
        const [heading, text] = said.parts[p][k] || own.parts[p][k], knot = el.querySelector(".knot");
        if (knot) knot.textContent = heading;
        el.querySelector(".said").textContent = text;
      });
      part.querySelectorAll("[data-ways]").forEach((el) => { el.hidden = at < 0 ? el.dataset.other === "1" : !applies(el, way); });
      part.querySelectorAll(".of").forEach((el) => { el.hidden = at >= 0; });
    });
  }

  function show() {
    const at = pieceOf();
    ["size", "cord", "closing", "risk", "units", "voice", "lie"].forEach((id) => { $(id).value = String(state[id]); });
    data.sizes.forEach((s, i) => { $("size").options[i].textContent = s.name + " (" + s.words[system()] + ")"; });
    document.querySelectorAll(".unit").forEach((el) => { el.textContent = system() ? "in" : "cm"; });
    $("own-row").hidden = state.size !== OWN;
    if (document.activeElement !== $("own")) $("own").value = shown(state.own);
    if (document.activeElement !== $("ease")) $("ease").value = shown(state.ease);
    $("own").step = $("ease").step = system() ? "0.125" : "0.1";
    $("own-help").textContent = table().step > 1 ? "worked out every " + table().step + " mm" : "";
    answer(at);
    words(at);
    $("along").hidden = at < 0;
    store(":set", state);
  }

  fill();
  if (![...$("size").options].some((o) => o.value === state.size)) state.size = OWN;
  if (!data.risks[state.risk]) state.risk = data.risk;
  if (!data.tables[state.cord]) state.cord = 0;
  let wanted = "";
  try { wanted = decodeURIComponent(location.hash.slice(1)); } catch (e) { /* an address that is none */ }
  if (data.sizes.some((s) => s.name === wanted)) state.size = wanted;
  ["size", "closing", "units", "voice", "lie"].forEach((id) => $(id).addEventListener("change", () => { state[id] = $(id).value; show(); }));
  ["risk", "cord"].forEach((id) => $(id).addEventListener("change", () => { state[id] = Number($(id).value); show(); }));
  ["own", "ease"].forEach((id) => $(id).addEventListener("input", () => {
    const value = Number.parseFloat($(id).value.replace(",", "."));
    if (Number.isFinite(value)) { state[id] = Math.round(value * unit()); show(); }
  }));
  $("set").addEventListener("submit", (e) => e.preventDefault());
  show();

  // -- tying along ---------------------------------------------------------------------------------
  const spot = Object.assign({ beat: 0 }, stored(":tie"));

  function beats() {
    const at = pieceOf(), out = [];
    if (at < 0) return out;
    const counts = table().pieces[at].counts, way = table().ways[at];
    parts.forEach((part) => {
      const steps = Array.from(part.querySelectorAll(".steps > li")).filter((li) => applies(li, way));
      const times = counts[part.dataset.name] || 1;
      for (let u = 0; u < times; u++) steps.forEach((li) => out.push({ part, li, unit: u, times }));
    });
    return out;
  }

  function beat() {
    const all = beats();
    if (!all.length) return;
    spot.beat = Math.min(Math.max(spot.beat, 0), all.length - 1);
    const b = all[spot.beat];
    const rows = Array.from(b.part.querySelectorAll(".again li")).filter((li) => !li.hidden).map((li) => li.textContent);
    $("tie-where").textContent = "Unit " + (b.unit + 1) + " of " + b.times + "; step " + (spot.beat + 1) + " of " + all.length;
    $("tie-title").textContent = b.part.querySelector("h2").textContent;
    const svg = b.li.querySelector(".picture svg, .picture img");
    $("tie-picture").replaceChildren(...(svg ? [svg.cloneNode(true)] : []));
    $("tie-said").textContent = [b.li.querySelector(".knot").textContent, b.li.querySelector(".said").textContent].filter(Boolean).join(": ");
    $("tie-part").textContent = b.unit ? rows.join(" ") : "";
    $("tie-back").disabled = spot.beat === 0;
    $("tie-next").disabled = spot.beat === all.length - 1;
    store(":tie", spot);
  }

  const move = (by) => { spot.beat += by; beat(); };
  $("along").addEventListener("click", () => { beat(); $("tie").showModal(); $("tie-next").focus(); });
  $("tie-back").addEventListener("click", () => move(-1));
  $("tie-next").addEventListener("click", () => move(1));
  $("tie-close").addEventListener("click", () => $("tie").close());
  $("tie").addEventListener("keydown", (e) => {
    if (e.key === "ArrowRight" || e.key === "PageDown") move(1);
    if (e.key === "ArrowLeft" || e.key === "PageUp") move(-1);
  });
})();

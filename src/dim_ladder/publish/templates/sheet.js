"use strict";
// All sizes stand in the table; choosing one hides the others. The choice survives a reload where the browser allows.
(function () {
  const parts = Array.from(document.querySelectorAll("tbody[data-size]"));
  const select = document.getElementById("size");
  if (!select || parts.length < 2) return;
  const key = "dim-ladder-size:" + document.title;
  const add = (value, text) => {
    const option = document.createElement("option");
    option.value = value;
    option.textContent = text;
    select.appendChild(option);
  };
  add("", "All sizes");
  parts.forEach((p) => add(p.dataset.size, p.dataset.size));
  const show = () => parts.forEach((p) => p.classList.toggle("other", select.value !== "" && p.dataset.size !== select.value));
  try { select.value = localStorage.getItem(key) || ""; } catch (e) { /* storage may be closed to files */ }
  if (!select.value) select.value = "";
  let wanted = "";
  try { wanted = decodeURIComponent(location.hash.slice(1)); } catch (e) { /* an address that is none */ }
  if (parts.some((p) => p.dataset.size === wanted)) select.value = wanted;
  select.addEventListener("change", () => {
    show();
    try { localStorage.setItem(key, select.value); } catch (e) { /* as above */ }
  });
  document.getElementById("pick").hidden = false;
  show();
})();

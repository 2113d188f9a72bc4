// Between the page and the R session behind it: what is to be shown comes as data, what was done goes back as values.
(function (fl) {
  "use strict";
  var el = fl.el;

  function say(name, value) { Shiny.setInputValue(name, value, { priority: "event" }); }

  function shown(view) {
    var part = view.part(), names = {};
    for (var g = 1; g <= part.k; g++) if (view.named(g)) names[g] = view.name(g);
    say("shown", { method: view.set().method, k: part.k, names: names, group: view.state.group });
  }

  // The tab "In words" asks for its sentences when it is seen, and again when the count changes.
  fl.asked = {
    words: function (view, home) {
      var box = el("div", { "class": "fl-words", text: "One moment." });
      home.appendChild(box);
      function ask() { if (!home.hidden) say("words", { method: view.set().method, k: view.part().k }); }
      var later = null;
      view.listen(function (changed) {
        if (!fl.touches(changed, ["method", "at"])) return;
        clearTimeout(later); later = setTimeout(ask, 250);
      });
      if (window.MutationObserver) new MutationObserver(ask).observe(home, { attributes: true, attributeFilter: ["hidden"] });
    },
    apart: function (rows) { say("apart", rows); },
    neighbours: function () { say("neighbours", Date.now()); }
  };

  function get(url, act) {
    fetch(url).then(function (r) { return r.json(); }).then(act);
  }

  Shiny.addCustomMessageHandler("fl-show", function (message) {
    var root = document.querySelector("#view");
    root.classList.add("fl-waiting");
    get(message.url, function (data) {
      var view = fl.start(root, data);
      root.classList.remove("fl-waiting");
      view.listen(function (changed) { if (fl.touches(changed, ["method", "at", "names", "group"])) shown(view); });
    });
  });
  Shiny.addCustomMessageHandler("fl-axes", function (message) {
    get(message.url, function (axes) { document.querySelector("#view").view.addAxes(axes); });
  });
  Shiny.addCustomMessageHandler("fl-clear", function (message) {
    var root = document.querySelector("#view");
    root.view = null; root.removeAttribute("data-ready"); root.textContent = message.text;
  });
  Shiny.addCustomMessageHandler("fl-compare", function (message) {
    get(message.url, function (data) { fl.compare(document.querySelector("#pair"), data); });
  });
  Shiny.addCustomMessageHandler("fl-words", function (message) {
    document.querySelectorAll(".fl-words").forEach(function (box) {
      box.textContent = "";
      [].concat(message.lines).forEach(function (line) { box.appendChild(el("p", { text: line })); });
    });
  });
  Shiny.addCustomMessageHandler("fl-progress", function (message) {
    var bar = document.querySelector(".fl-progress");
    bar.hidden = !message.running;
    bar.querySelector("progress").value = message.share;
    bar.querySelector("span").textContent = message.text;
  });
  Shiny.addCustomMessageHandler("fl-page", function (message) {
    var address = new URL(window.location);
    address.searchParams.set("page", message.page);
    window.history.replaceState(null, "", address);
  });

  // A page that is left gives its work back at once, and asks for it anew when it is shown again.
  window.addEventListener("pagehide", function () {
    if (Shiny.shinyapp && Shiny.shinyapp.$socket) Shiny.shinyapp.$socket.close();
  });
  window.addEventListener("pageshow", function (e) { if (e.persisted) window.location.reload(); });

  // Roles and settings of columns are plain controls in a table: all of them go back at once.
  function gather(selector, read) {
    var out = {};
    document.querySelectorAll(selector).forEach(function (e) { out[e.dataset.column] = read(e); });
    return out;
  }
  document.addEventListener("change", function (e) {
    if (e.target.matches(".fl-role")) say("roles", gather(".fl-role", function (s) { return s.value; }));
    if (e.target.matches(".fl-type")) say("type", { column: e.target.dataset.column, type: e.target.value });
    if (e.target.matches(".fl-use, .fl-transform, .fl-weight")) {
      say("settings", { use: gather(".fl-use", function (s) { return s.checked; }),
                        transform: gather(".fl-transform", function (s) { return s.value; }),
                        weight: gather(".fl-weight", function (s) { return s.value; }) });
    }
  });
  document.addEventListener("click", function (e) {
    if (e.target.matches(".fl-remedy")) say("remedy", Number(e.target.dataset.finding));
    if (e.target.matches(".fl-copy")) navigator.clipboard.writeText(document.querySelector("#script_lines").textContent);
  });
})(fjordline);

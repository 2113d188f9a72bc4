// The page: where the parts stand, and the keys.
(function (fl) {
  "use strict";
  var el = fl.el;

  // Rows of a group among those that are drawn.
  fl.View.prototype.drawnSize = function (part, g) {
    if (!part.drawn) {
      part.drawn = new Float64Array(256);
      for (var i = 0; i < this.n; i++) part.drawn[part.group[i]]++;
    }
    return part.drawn[g] || 1;
  };

  function chooser(label, options, chosen, act) {
    var select = el("select", { "aria-label": label, on: { change: function () { act(Number(select.value)); } } },
                    options.map(function (name, i) { return el("option", { value: i, text: name, selected: i === chosen }); }));
    return { tag: el("label", {}, [el("span", { text: label }), select]), select: select };
  }

  // The two columns that say where rows lie, after the components.
  function placeAxes(view) {
    var place = view.data.place, plain = view.data.axes.length;
    return place ? { x: plain + place[0], y: plain + place[1], z: -1 } : null;
  }

  function toolbar(view, place) {
    var axes = view.axes.map(function (a) { return a.name.length > 44 ? a.name.slice(0, 43) + "\u2026" : a.name; });
    var method = chooser("method", view.sets.map(function (s) { return s.label; }), view.state.method, function (m) { view.useMethod(m); });
    var x = chooser("across", axes, view.state.x, function (a) { view.change({ x: a }); });
    var y = chooser("up", axes, view.state.y, function (a) { view.change({ y: a }); });
    var z = chooser("deep", ["none"].concat(axes), view.state.z + 1, function (a) { view.change({ z: a - 1 }); });
    var find = el("input", { type: "search", placeholder: "find a row (/)", "class": "fl-find", "aria-label": "find a row by its identifier",
                             on: { keydown: function (e) {
                               if (e.key !== "Enter") return;
                               var row = view.find(find.value);
                               find.setAttribute("aria-invalid", String(row < 0));
                               if (row >= 0) { view.change({ row: row }); find.blur(); }
                             } } });
    place.appendChild(el("div", { "class": "fl-tools" }, [
      view.sets.length > 1 ? method.tag : null, x.tag, y.tag, view.axes.length > 2 ? z.tag : null,
      placeAxes(view) ? el("button", { type: "button", text: "Map", title: "the rows where they lie", on: { click: function () { view.change(placeAxes(view)); } } }) : null,
      fl.asked && view.columns.length > 3 ? el("button", { type: "button", text: "Neighbours", title: "a map on which near rows stay near; it bends distances", on: { click: function () { fl.asked.neighbours(); } } }) : null,
      find,
      el("button", { type: "button", text: "Save labels", title: "row, group and name of every row shown, as CSV", on: { click: function () { fl.saveLabels(view); } } })
    ]));
    view.listen(function () {
      for (var i = x.select.options.length; i < view.axes.length; i++) {
        x.select.appendChild(el("option", { value: i, text: view.axes[i].name }));
        y.select.appendChild(el("option", { value: i, text: view.axes[i].name }));
      }
      method.select.value = view.state.method; x.select.value = view.state.x; y.select.value = view.state.y; z.select.value = view.state.z + 1;
    });
  }

  function tabs(place, panels) {
    var body = el("div", { "class": "fl-panel" }), row = el("div", { "class": "fl-tabs", role: "tablist" }), buttons = [], made = [];
    place.appendChild(row); place.appendChild(body);
    panels.forEach(function (panel, i) {
      var home = el("div", { role: "tabpanel", hidden: true });
      body.appendChild(home);
      buttons[i] = el("button", { type: "button", role: "tab", text: panel.name, on: { click: function () { show(i); } } });
      row.appendChild(buttons[i]);
      made[i] = { home: home, done: false };
    });
    function show(i) {
      made.forEach(function (one, j) { one.home.hidden = i !== j; buttons[j].setAttribute("aria-selected", String(i === j)); });
      if (!made[i].done) { made[i].done = true; panels[i].make(made[i].home); }
    }
    show(0);
  }

  function verdict(view, place) {
    var said = view.data.said || {}, more = (said.more || []).filter(Boolean);
    place.appendChild(el("div", { "class": "fl-said" }, [
      el("b", { text: said.head || "" }),
      more.length ? el("ul", {}, more.map(function (line) { return el("li", { text: line }); })) : null
    ]));
  }

  // One listener for a page, whatever is shown in it later.
  function keys(root) {
    if (root.keyed) return;
    root.keyed = true;
    document.addEventListener("keydown", function (e) {
      var view = root.view, find = root.querySelector(".fl-find"), typing = /^(INPUT|SELECT|TEXTAREA)$/.test(e.target.tagName) && e.target.type !== "range";
      if (!view || root.offsetParent === null) return;
      if (e.key === "Escape") {
        if (typing) e.target.blur();
        view.pick(null); view.change({ row: -1, group: -1 });
      } else if (typing || e.ctrlKey || e.metaKey || e.altKey) return;
      else if (e.key === "/") { e.preventDefault(); find.focus(); find.select(); }
      else if ((e.key === "ArrowLeft" || e.key === "ArrowRight") && e.target.type !== "range" && e.target.tagName !== "CANVAS") {
        e.preventDefault(); view.step(e.key === "ArrowLeft" ? -1 : 1);
      }
    });
  }

  // Builds the page in `root`, and gives the view back.
  fl.start = function (root, data) {
    var view = new fl.View(data);
    root.textContent = "";
    toolbar(view, root);
    var plane = el("div", { "class": "fl-plane" }), canvas = el("canvas", { role: "img", tabindex: 0, "aria-label": "The rows in the plane" });
    var tip = el("div", { "class": "fl-tip", hidden: true }), side = el("div", { "class": "fl-side" }), below = el("div", { "class": "fl-below" });
    plane.appendChild(canvas); plane.appendChild(tip);
    var steps = el("div", { "class": "fl-left" }, [plane]);
    root.appendChild(el("div", { "class": "fl-main" }, [steps, side]));
    root.appendChild(below);
    fl.steps(view, steps);
    view.plane = fl.Plane(view, canvas, tip);
    verdict(view, side);
    fl.card(view, side);
    var left = el("div", { "class": "fl-box" }), right = el("div", { "class": "fl-box" });
    below.appendChild(left); below.appendChild(right);
    var truth = view.columns.filter(function (c) { return c.role === "truth" && c.type === "level"; })[0];
    var date = view.columns.filter(function (c) { return c.type === "date"; })[0];
    tabs(left, [{ name: "Profile", make: function (home) { fl.profile(view, home); } },
                { name: "Rows", make: function (home) { fl.rowTable(view, home); } },
                fl.asked ? { name: "In words", make: function (home) { fl.asked.words(view, home); } } : null].filter(Boolean));
    tabs(right, [{ name: "Silhouettes", make: function (home) { fl.widths(view, home); } },
                 { name: "Indices", make: function (home) { fl.curves(view, home); } },
                 truth ? { name: "Known classes", make: function (home) { fl.classes(view, home, truth); } } : null,
                 date ? { name: "Over time", make: function (home) { fl.time(view, home, date); } } : null].filter(Boolean));
    if (data.note) root.appendChild(el("p", { "class": "fl-soft", text: data.note }));
    keys(root);
    root.setAttribute("data-ready", view.n);
    root.view = view;
    return view;
  };

  document.querySelectorAll(".fl-view").forEach(function (root) {
    var data = root.querySelector("script[type='application/json']");
    if (data) fl.start(root, JSON.parse(data.textContent));
  });
})(fjordline);

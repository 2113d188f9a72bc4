// What is in hand: a group, a row, or selected rows; a table of rows; saving labels.
(function (fl) {
  "use strict";
  var el = fl.el;

  fl.card = function (view, place) {
    var holder = el("div", { "class": "fl-card", "aria-live": "polite" });
    place.appendChild(holder);
    function draw() {
      holder.textContent = "";
      holder.style.borderTopColor = view.state.row >= 0 ? view.colour(view.part().group[view.state.row])
        : view.state.group > 0 ? view.colour(view.state.group) : "#dfe5e8";
      var inside = view.state.row >= 0 ? rowCard(view) : view.picked ? pickedCard(view)
        : view.state.group > 0 ? groupCard(view) : groupList(view);
      inside.forEach(function (one) { if (one) holder.appendChild(one); });
    }
    view.listen(function (changed) {
      if (fl.touches(changed, ["method", "at", "group", "row", "picked", "names"])) draw();
    });
  };

  function button(text, act, title) { return el("button", { type: "button", text: text, title: title, on: { click: act } }); }

  // --- all groups, when nothing is in hand

  function groupList(view) {
    var part = view.part(), sizes = view.summary().sizes, all = 0, g, rows = [];
    for (g = 0; g <= part.k; g++) all += sizes[g];
    for (g = 1; g <= part.k; g++) rows.push(groupLine(view, g, sizes[g], all));
    return [el("p", { "class": "fl-soft", text: "Click a group or a row; draw a line around rows to select them." }),
            el("div", { "class": "fl-list" }, rows)];
  }

  function groupLine(view, g, size, all) {
    return el("button", { type: "button", on: { click: function () { view.change({ group: g, row: -1 }); } } }, [
      el("span", { "class": "fl-dot", style: { background: view.colour(g) } }), el("b", { text: view.name(g) }),
      el("span", { "class": "fl-soft", text: " " + fl.rows(size) + " (" + fl.percent(size / all) + ")" })
    ]);
  }

  // --- one group

  // The columns that differ most from all rows, in words.
  function standsOut(view, g) {
    return fl.profileLines(view, view.summary()).filter(function (l) { return l.role !== "truth"; }).map(function (line) {
      return { line: line, by: line.apart(g) };
    }).filter(function (one) { return Math.abs(one.by) >= 0.5; })
      .sort(function (a, b) { return rank(a) - rank(b) || Math.abs(b.by) - Math.abs(a.by); }).slice(0, 4).map(function (one) {
        var word = (Math.abs(one.by) >= 1 ? "much " : "") + (one.by > 0 ? "higher " : "lower ");
        return word + one.line.label + ": " + one.line.show(one.line.value(g)) + ", all " + one.line.show(one.line.all) + (one.line.role === "aside" ? " (aside)" : "");
      });
  }

  // What made the groups comes before what was kept aside.
  function rank(one) { return one.line.role === "feature" ? 0 : 1; }

  // Rows of a group in the order of a coded value.
  function ordered(view, g, values, most, downwards) {
    var part = view.part(), rows = [], i;
    for (i = 0; i < view.n; i++) if (part.group[i] === g && values[i] !== fl.none) rows.push(i);
    rows.sort(function (a, b) { return downwards ? values[b] - values[a] : values[a] - values[b]; });
    return rows.slice(0, most);
  }

  function rowLinks(view, title, rows) {
    if (rows.length === 0) return null;
    return el("p", {}, [el("span", { "class": "fl-soft", text: title + " " })].concat(rows.map(function (i) {
      return el("button", { type: "button", "class": "fl-link", text: view.rowName(i),
                            on: { click: function () { view.change({ row: i }); } } });
    })));
  }

  function groupCard(view) {
    var g = view.state.group, part = view.part(), size = view.summary().sizes[g], words = standsOut(view, g);
    var name = el("input", { type: "text", value: view.named(g) ? view.name(g) : "", placeholder: "name group " + g, maxlength: 60,
                             "aria-label": "name of group " + g,
                             on: { change: function () { view.rename(g, name.value); } } });
    return [
      el("div", { "class": "fl-title" }, [el("span", { "class": "fl-dot", style: { background: view.colour(g) } }), el("b", { text: view.name(g) }),
        el("span", { "class": "fl-soft", text: " " + fl.rows(size) + " (" + fl.percent(size / view.n) + ")" })]),
      name,
      words.length ? el("ul", {}, words.map(function (w) { return el("li", { text: w }); }))
        : el("p", { text: "No column differs by half a standard deviation or more from all rows." }),
      rowLinks(view, "Most typical:", ordered(view, g, part.far, 3, false)),
      part.k > 1 ? rowLinks(view, "Least certain:", ordered(view, g, part.width, 3, false)) : null,
      el("p", {}, [button("Select its rows", function () { view.pickWhere(function (i) { return part.group[i] === g; }); }), button("Close", function () { view.change({ group: -1 }); })])
    ];
  }

  // --- one row

  function rowCard(view) {
    var i = view.state.row, part = view.part(), g = part.group[i], next = part.nearest[i], facts = [];
    if (part.k > 1 && part.width[i] !== fl.none) facts.push("silhouette " + (part.width[i] / 100 - 1).toFixed(2));
    if (part.sure && part.sure[i] !== fl.none) facts.push("membership " + (part.sure[i] / 200).toFixed(2));
    if (next >= 1 && next !== fl.none) facts.push("next nearest: " + view.name(next));
    var summary = view.summary(), reasons = g >= 1 && next >= 1 && next !== fl.none ? pulls(view, i, g, next) : null;
    var table = el("table", { "class": "fl-profile" }, [
      el("thead", {}, [el("tr", {}, ["column", "this row", "its group", "next"].map(function (t) { return el("th", { text: t }); }))]),
      el("tbody", {}, view.columns.map(function (c, j) {
        var of = function (group) {
          return c.type !== "number" || !(group >= 1 && group <= part.k) ? "" : fl.digits(summary.columns[j].means[group], c.sd);
        };
        return el("tr", {}, [el("th", { text: c.name, title: c.name }), el("td", { text: fl.shownValue(c, i) }), el("td", { text: of(g) }), el("td", { text: of(next) })]);
      }))
    ]);
    return [
      el("div", { "class": "fl-title" }, [el("span", { "class": "fl-dot", style: { background: view.colour(g) } }), el("b", { text: view.rowName(i) }),
        el("span", { "class": "fl-soft", text: " " + view.name(g) })]),
      facts.length ? el("p", { text: capital(facts.join("; ")) + "." }) : null, reasons ? el("p", { text: reasons }) : null,
      el("div", { "class": "fl-scroll" }, [table]),
      el("p", {}, [button("Close", function () { view.change({ row: -1 }); })])
    ];
  }

  function capital(text) { return text.charAt(0).toUpperCase() + text.slice(1); }

  // Which columns lie nearer to the mean of its group, and which to that of the next, in overall standard deviations.
  function pulls(view, i, g, next) {
    var summary = view.summary(), forIt = [], against = [];
    view.columns.forEach(function (c, j) {
      if (c.type !== "number" || c.role !== "feature" || isNaN(c.values[i]) || !(c.sd > 0)) return;
      var m = summary.columns[j].means, gain = (Math.abs(c.values[i] - m[next]) - Math.abs(c.values[i] - m[g])) / c.sd;
      if (gain > 0.3) forIt.push([gain, c.name]);
      if (gain < -0.3) against.push([-gain, c.name]);
    });
    var names = function (list) { return list.sort(function (a, b) { return b[0] - a[0]; }).slice(0, 3).map(function (p) { return p[1]; }).join(", "); };
    if (!forIt.length && !against.length) return "No column alone is much nearer to one of the two groups.";
    return (forIt.length ? "Nearer to " + view.name(g) + " in " + names(forIt) + ". " : "") +
      (against.length ? "Nearer to " + view.name(next) + " in " + names(against) + "." : "");
  }

  // --- selected rows

  function pickedCard(view) {
    var rows = view.pickedRows(), part = view.part(), counts = new Float64Array(part.k + 1), lines = [], g;
    rows.forEach(function (i) { if (part.group[i] <= part.k) counts[part.group[i]]++; });
    for (g = 1; g <= part.k; g++) if (counts[g]) lines.push(groupLine(view, g, counts[g], rows.length));
    return [
      el("div", { "class": "fl-title" }, [el("b", { text: fl.rows(rows.length) + " selected" })]),
      el("div", { "class": "fl-list" }, lines), rowLinks(view, "Among them:", rows.slice(0, 8)),
      el("p", {}, [button("Clear", function () { view.pick(null); }, "Escape does the same"),
                   button("Save as CSV", function () { saveRows(view, rows, "selected"); }),
                   fl.asked ? button("Set apart\u2026", function () { fl.asked.apart(rows.map(function (i) { return view.rows[i]; })); }, "leave these rows out of the next fit") : null])
    ];
  }

  // --- labels as a file

  function quoted(text) {
    text = String(text);
    // a cell that begins with such a sign is a formula to some programs
    if (/^[=+\-@\t\r]/.test(text) && isNaN(Number(text))) text = "'" + text;
    return /[",\n\r]/.test(text) ? '"' + text.replace(/"/g, '""') + '"' : text;
  }

  fl.csv = function (view, rows) {
    var part = view.part(), lines = [(view.data.ids ? "id," : "") + "row,group,name"];
    rows.forEach(function (i) {
      var g = part.group[i], known = g !== fl.none;
      lines.push((view.data.ids ? quoted(view.data.ids[i]) + "," : "") + view.rows[i] + "," + (known ? g : "") + "," + (known ? quoted(view.name(g)) : ""));
    });
    return lines.join("\r\n") + "\r\n";
  };

  function saveRows(view, rows, what) {
    var link = el("a", { href: URL.createObjectURL(new Blob([fl.csv(view, rows)], { type: "text/csv" })),
                         download: view.data.name.replace(/[^A-Za-z0-9_-]+/g, "_") + "-" + what + ".csv" });
    document.body.appendChild(link); link.click(); link.remove();
  }

  fl.saveLabels = function (view) {
    var rows = [];
    for (var i = 0; i < view.n; i++) rows.push(i);
    saveRows(view, rows, view.part().k + "-groups");
  };

  // --- the rows as a table: those selected, else those of the group in hand, else all

  fl.rowTable = function (view, place) {
    var holder = el("div", { "class": "fl-scroll" }), said = el("p", { "class": "fl-soft" });
    var room = 60, more = button("Show more", function () { room += 240; draw(); });
    place.appendChild(said); place.appendChild(holder); place.appendChild(more);
    function draw() {
      var part = view.part(), shown = [], all = 0, i;
      for (i = 0; i < view.n; i++) {
        if (view.picked ? !view.picked[i] : view.state.group > 0 && part.group[i] !== view.state.group) continue;
        all++;
        if (shown.length < room) shown.push(i);
      }
      said.textContent = fl.rows(all) + (view.picked ? " selected" : view.state.group > 0 ? " in " + view.name(view.state.group) : "") +
        (shown.length < all ? "; the first " + shown.length + " are shown." : ".");
      more.hidden = shown.length === all;
      var columns = view.columns.slice(0, 8);
      holder.textContent = "";
      holder.appendChild(el("table", { "class": "fl-profile fl-rows" }, [
        el("thead", {}, [el("tr", {}, ["row", "group"].concat(columns.map(function (c) { return c.name; })).map(function (t) { return el("th", { text: t }); }))]),
        el("tbody", {}, shown.map(function (i) {
          return el("tr", { tabindex: 0, "class": view.state.row === i ? "here" : null, on: { click: function () { view.change({ row: i }); } } },
                    [el("th", { text: view.rowName(i) }), el("td", { text: view.name(part.group[i]) })]
                      .concat(columns.map(function (c) { return el("td", { text: fl.shownValue(c, i) }); })));
        }))
      ]));
    }
    view.listen(function (changed) { if (fl.touches(changed, ["method", "at", "group", "row", "picked", "names"])) draw(); });
  };
})(fjordline);

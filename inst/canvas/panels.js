// What moves with the plane: the groups of every count, the indices, the profile, silhouettes, known classes, time.
(function (fl) {
  "use strict";
  var el = fl.el;

  function pen(canvas) {
    var ratio = window.devicePixelRatio || 1, w = canvas.clientWidth, h = canvas.clientHeight, out = canvas.getContext("2d");
    canvas.width = Math.max(1, w * ratio); canvas.height = Math.max(1, h * ratio);
    out.setTransform(ratio, 0, 0, ratio, 0, 0);
    out.clearRect(0, 0, w, h);
    return { pen: out, w: w, h: h };
  }
  fl.pen = pen;

  function touches(changed, keys) {
    return changed.some(function (c) { return c === "all" || keys.indexOf(c) >= 0; });
  }
  fl.touches = touches;

  function redraw(canvas, draw) { if (window.ResizeObserver) new ResizeObserver(draw).observe(canvas); }

  // --- the groups of every count, one bar a count, joined where rows go on together; a slider below

  fl.flows = function (a, b, n) {
    var wide = b.k + 1, out = new Float64Array((a.k + 1) * wide);
    for (var i = 0; i < n; i++) {
      var g = a.group[i], h = b.group[i];
      if (g <= a.k && h <= b.k) out[g * wide + h]++;
    }
    return out;
  };

  // Both ends lie in the order of the bars, so that ribbons cross as little as they must.
  fl.ribbons = function (p, a, b, flow, bar, view) {
    var wide = b.part.k + 1, out = {}, into = {};
    a.order.forEach(function (g) { out[g] = a.from[g][0]; });
    b.order.forEach(function (h) { into[h] = b.from[h][0]; });
    a.order.forEach(function (g) {
      b.order.forEach(function (h) {
        var rows = flow[g * wide + h];
        if (!rows) return;
        var d = a.from[g][1] * rows / view.drawnSize(a.part, g), e = b.from[h][1] * rows / view.drawnSize(b.part, h);
        var x0 = a.x + bar / 2, x1 = b.x - bar / 2, m = (x0 + x1) / 2;
        p.fillStyle = view.colour(h, b.part);
        p.beginPath(); p.moveTo(x0, out[g]); p.bezierCurveTo(m, out[g], m, into[h], x1, into[h]);
        p.lineTo(x1, into[h] + e); p.bezierCurveTo(m, into[h] + e, m, out[g] + d, x0, out[g] + d); p.fill();
        out[g] += d; into[h] += e;
      });
    });
  };

  // One bar: its groups in the order of their colours, from top to bottom.
  fl.bar = function (part, x, top, high) {
    var order = [], y = top, gap = 1.5, whole = 0, from = {};
    for (var g = 1; g <= part.k; g++) { order.push(g); whole += part.sizes[g - 1]; }
    order.sort(function (a, b) { return part.colour[a - 1] - part.colour[b - 1]; });
    var unit = (high - gap * (part.k - 1)) / Math.max(1, whole);
    order.forEach(function (g) { from[g] = [y, part.sizes[g - 1] * unit]; y += part.sizes[g - 1] * unit + gap; });
    return { x: x, from: from, part: part, order: order };
  };

  fl.steps = function (view, place) {
    var canvas = el("canvas", { role: "img", "aria-label": "The groups of every count" });
    var slider = el("input", { type: "range", step: 1, min: 0, "aria-label": "number of groups",
                               on: { input: function () { view.change({ at: Number(slider.value) }); } } });
    var said = el("output", { "aria-live": "polite" });
    place.appendChild(el("div", { "class": "fl-steps" }, [said, canvas, slider]));
    var bars = [];

    function draw() {
      var set = view.set(), many = set.parts.length, at = pen(canvas), p = at.pen, top = 16, high = at.h - top - 2;
      var bar = Math.min(26, at.w / many * 0.45), x = function (i) { return many < 2 ? at.w / 2 : 12 + i * (at.w - 24) / (many - 1); };
      bars = set.parts.map(function (part, i) { return fl.bar(part, x(i), top, high); });
      p.globalAlpha = 0.3;
      for (var i = 1; i < many; i++) {
        var a = bars[i - 1], b = bars[i], key = "flow:" + view.state.method + ":" + i;
        if (!view.kept[key]) view.kept[key] = fl.flows(a.part, b.part, view.n);
        fl.ribbons(p, a, b, view.kept[key], bar, view);
      }
      p.globalAlpha = 1;
      bars.forEach(function (b, i) {
        var here = i === view.state.at;
        b.order.forEach(function (g) {
          p.fillStyle = view.colour(g, b.part);
          p.fillRect(b.x - bar / 2, b.from[g][0], bar, Math.max(0.5, b.from[g][1]));
        });
        p.font = (here ? "bold " : "") + "12px sans-serif"; p.fillStyle = here ? "#16222b" : "#52616b";
        p.textAlign = "center"; p.textBaseline = "top"; p.fillText(b.part.k, b.x, 0);
        if (here) { p.strokeStyle = "#16222b"; p.lineWidth = 1.5; p.strokeRect(b.x - bar / 2 - 2, top - 2, bar + 4, high + 3); }
      });
      slider.max = many - 1; slider.value = view.state.at; slider.disabled = many < 2;
      said.textContent = view.part().k + (view.part().k === 1 ? " group by " : " groups by ") + set.label;
    }

    canvas.addEventListener("click", function (e) {
      var box = canvas.getBoundingClientRect(), x = e.clientX - box.left, best = 0;
      bars.forEach(function (b, i) { if (Math.abs(b.x - x) < Math.abs(bars[best].x - x)) best = i; });
      view.change({ at: best });
    });
    view.listen(function (changed) { if (touches(changed, ["method", "at"])) draw(); });
    redraw(canvas, draw);
  };

  // --- every index over the counts: its shape, the count it prefers, and where we are

  fl.curves = function (view, place) {
    var canvas = el("canvas", { role: "img", "aria-label": "Every index over the counts" });
    place.appendChild(canvas);
    place.appendChild(el("p", { "class": "fl-soft", text: "Line: the count shown. Red: the count an index prefers. \u2191 higher, \u2193 lower is better." }));
    function draw() {
      var set = view.set(), at = pen(canvas), p = at.pen, shown = set.indices.filter(function (i) { return i.k.length > 1; });
      if (shown.length === 0) { p.font = "13px sans-serif"; p.fillStyle = "#52616b"; p.fillText("No index over the counts.", 4, 16); return; }
      var across = Math.max(1, Math.min(shown.length, Math.floor(at.w / 86))), down = Math.ceil(shown.length / across);
      var w = at.w / across, h = at.h / down, counts = set.counts, low = counts[0], span = Math.max(1, counts[counts.length - 1] - low);
      shown.forEach(function (index, n) {
        var left = n % across * w + 4, top = Math.floor(n / across) * h, wide = w - 10, high = Math.max(8, h - 20);
        var least = Math.min.apply(null, index.value), most = Math.max.apply(null, index.value);
        var x = function (k) { return left + (k - low) / span * wide; };
        var y = function (v) { return top + 15 + (most > least ? (most - v) / (most - least) : 0.5) * high; };
        p.font = "10px sans-serif"; p.fillStyle = "#52616b"; p.textAlign = "left"; p.textBaseline = "top";
        p.fillText(index.label + (index.better === "lower" ? " \u2193" : index.better === "higher" ? " \u2191" : ""), left, top + 1, wide);
        p.strokeStyle = "#c9d2d8"; p.lineWidth = 1; p.beginPath(); p.moveTo(x(view.part().k), top + 14); p.lineTo(x(view.part().k), top + 16 + high); p.stroke();
        p.strokeStyle = "#224e56"; p.lineWidth = 1.4; p.beginPath();
        index.k.forEach(function (k, i) { if (i) p.lineTo(x(k), y(index.value[i])); else p.moveTo(x(k), y(index.value[i])); });
        p.stroke();
        index.k.forEach(function (k, i) {
          if (k !== view.part().k && k !== index.picks) return;
          p.fillStyle = k === index.picks ? "#f14a4e" : "#16222b"; p.beginPath(); p.arc(x(k), y(index.value[i]), 2.8, 0, 7); p.fill();
        });
      });
    }
    view.listen(function (changed) { if (touches(changed, ["method", "at"])) draw(); });
    redraw(canvas, draw);
  };

  // --- columns against groups: means and shares, coloured by the difference from all rows

  fl.profile = function (view, place, most) {
    var holder = el("div", { "class": "fl-scroll" });
    place.appendChild(holder);
    function draw() {
      var part = view.part(), summary = view.summary(), picked = view.pickedSummary(), lines = fl.profileLines(view, summary);
      var pickedLines = picked ? fl.profileLines(view, picked) : null;
      lines.forEach(function (line, i) {
        line.most = 0;
        for (var g = 1; g <= part.k; g++) line.most = Math.max(line.most, Math.abs(line.apart(g)) || 0);
        line.pickedLine = pickedLines && pickedLines[i];
      });
      lines.sort(function (a, b) { return (a.role === "feature" ? 0 : 1) - (b.role === "feature" ? 0 : 1) || b.most - a.most; });
      lines = lines.filter(function (line) { return line.role !== "truth"; }).slice(0, most || 14);
      var head = el("tr", {}, [el("th", { text: "mean or share" })]);
      for (var g = 1; g <= part.k; g++) head.appendChild(groupHead(view, g, summary.sizes[g]));
      if (picked) head.appendChild(el("th", { text: "selected" }));
      head.appendChild(el("th", { text: "all" }));
      var body = el("tbody", {}, lines.map(function (line) {
        var row = el("tr", {}, [el("th", { text: line.label + (line.role === "aside" ? " (aside)" : ""), title: line.label })]);
        for (var g = 1; g <= part.k; g++) row.appendChild(cell(line, line.value(g), line.apart(g)));
        if (picked) row.appendChild(cell(line.pickedLine, line.pickedLine.value(1), line.pickedLine.apart(1)));
        row.appendChild(el("td", { text: line.show(line.all) }));
        return row;
      }));
      holder.textContent = "";
      holder.appendChild(el("table", { "class": "fl-profile" }, [el("thead", {}, [head]), body]));
    }
    view.listen(function (changed) { if (touches(changed, ["method", "at", "names", "picked", "group"])) draw(); });
  };

  function groupHead(view, g, size) {
    var here = view.state.group === g;
    var button = el("button", { type: "button", title: view.name(g) + ", " + fl.rows(size), "aria-pressed": String(here),
                                on: { click: function () { view.change({ group: here ? -1 : g, row: -1 }); } } },
                    [el("span", { "class": "fl-dot", style: { background: view.colour(g) } }), el("b", { text: g })]);
    return el("th", { "class": here ? "here" : null }, [button]);
  }

  function cell(line, value, apart) {
    var strength = Math.min(1, Math.abs(apart) / 1.5) || 0, colour = apart > 0 ? "168,50,58" : "34,78,86";
    return el("td", { text: line.show(value), style: { background: "rgba(" + colour + "," + (0.75 * strength).toFixed(2) + ")",
                                                       color: strength > 0.75 ? "#fff" : "#16222b" } });
  }

  // --- silhouettes: every group's rows in order of their width

  fl.widths = function (view, place) {
    var canvas = el("canvas", { role: "img", "aria-label": "Silhouette widths of the groups" }), note = el("p", { "class": "fl-soft" });
    place.appendChild(canvas); place.appendChild(note);
    function draw() {
      var part = view.part(), at = pen(canvas), p = at.pen, g, i, b;
      note.textContent = part.k < 2 ? "One group has no silhouettes."
        : "1: well inside its group, 0: between two, below 0: nearer to another." + (view.set().byCentres ? " By distances to the centres." : "");
      if (part.k < 2) return;
      var bins = [], sums = new Float64Array(part.k + 1), sizes = new Float64Array(part.k + 1);
      for (g = 0; g <= part.k; g++) bins.push(new Float64Array(201));
      for (i = 0; i < view.n; i++) {
        g = part.group[i];
        if (g >= 1 && g <= part.k && part.width[i] !== fl.none) { bins[g][part.width[i]]++; sums[g] += part.width[i] / 100 - 1; sizes[g]++; }
      }
      var whole = sizes.reduce(function (a, c) { return a + c; }, 0), y = 2, gap = 4, left = 4, right = at.w - 84;
      var unit = (at.h - 18 - gap * part.k) / Math.max(1, whole), x = function (w) { return left + (w + 0.5) / 1.5 * (right - left); };
      for (g = 1; g <= part.k; g++) {
        p.fillStyle = view.colour(g); p.globalAlpha = view.state.group > 0 && view.state.group !== g ? 0.3 : 0.85;
        p.beginPath(); p.moveTo(x(0), y);
        var down = y;
        for (b = 200; b >= 0; b--) {
          if (!bins[g][b]) continue;
          p.lineTo(x(Math.max(-0.5, b / 100 - 1)), down);
          down += bins[g][b] * unit;
          p.lineTo(x(Math.max(-0.5, b / 100 - 1)), down);
        }
        p.lineTo(x(0), down); p.fill(); p.globalAlpha = 1;
        p.font = "11px sans-serif"; p.fillStyle = "#16222b"; p.textBaseline = "middle"; p.textAlign = "left";
        if (down - y > 8) p.fillText(g + ": mean " + (sums[g] / Math.max(1, sizes[g])).toFixed(2), right + 6, (y + down) / 2);
        y = down + gap;
      }
      p.strokeStyle = "#9aa5ac"; p.beginPath(); p.moveTo(x(0), 0); p.lineTo(x(0), at.h - 16); p.stroke();
      p.fillStyle = "#52616b"; p.font = "10px sans-serif"; p.textBaseline = "bottom"; p.textAlign = "center";
      [-0.5, 0, 0.5, 1].forEach(function (w) { p.fillText(w, Math.max(10, x(w)), at.h); });
    }
    view.listen(function (changed) { if (touches(changed, ["method", "at", "group", "names"])) draw(); });
    redraw(canvas, draw);
  };

  // --- known classes against groups; a cell takes its rows

  fl.classes = function (view, place, column) {
    var holder = el("div", { "class": "fl-scroll" });
    place.appendChild(holder);
    function draw() {
      var part = view.part(), count = column.levels.map(function () { return new Float64Array(part.k + 1); }), i, g;
      for (i = 0; i < view.n; i++) {
        g = part.group[i];
        if (g >= 1 && g <= part.k && column.values[i] !== fl.none) count[column.values[i] - 1][g]++;
      }
      var head = el("tr", {}, [el("th", { text: column.name })]);
      for (g = 1; g <= part.k; g++) head.appendChild(groupHead(view, g, view.summary().sizes[g]));
      var body = column.levels.map(function (level, l) {
        var most = Math.max.apply(null, Array.from(count[l])), row = el("tr", {}, [el("th", { text: level, title: level })]);
        for (g = 1; g <= part.k; g++) row.appendChild(classCell(l, g, count[l][g], most));
        return row;
      });
      holder.textContent = "";
      holder.appendChild(el("table", { "class": "fl-profile fl-classes" }, [el("thead", {}, [head]), el("tbody", {}, body)]));
    }
    function classCell(l, g, n, most) {
      var part = view.part(), share = most > 0 ? n / most : 0;
      var button = el("button", { type: "button", text: n ? fl.thousands(n) : "", title: "take these rows", on: { click: function () {
        view.pickWhere(function (i) { return part.group[i] === g && column.values[i] === l + 1; });
      } } });
      return el("td", { style: { background: "rgba(34,78,86," + (0.55 * share).toFixed(2) + ")" }, "class": share > 0.7 ? "strong" : null }, [n ? button : null]);
    }
    view.listen(function (changed) { if (touches(changed, ["method", "at", "names", "group"])) draw(); });
  };

  // --- over time: the share of each group in every period

  fl.time = function (view, place, column) {
    var canvas = el("canvas", { role: "img", "aria-label": "Shares of the groups over time" });
    place.appendChild(canvas);
    function period(day, long) { return fl.day(day).slice(0, long ? 4 : 7); }
    function draw() {
      var at = pen(canvas), p = at.pen, part = view.part(), i, least = Infinity, most = -Infinity;
      for (i = 0; i < view.n; i++) if (!isNaN(column.values[i])) { least = Math.min(least, column.values[i]); most = Math.max(most, column.values[i]); }
      var long = most - least > 3 * 366, by = new Map();
      for (i = 0; i < view.n; i++) {
        if (isNaN(column.values[i]) || part.group[i] > part.k || view.picked && !view.picked[i]) continue;
        var key = period(column.values[i], long);
        if (!by.has(key)) by.set(key, new Float64Array(part.k + 1));
        by.get(key)[part.group[i]]++;
      }
      var keys = Array.from(by.keys()).sort(), w = (at.w - 10) / Math.max(1, keys.length), high = at.h - 20, last = -99;
      keys.forEach(function (key, n) {
        var counts = by.get(key), whole = counts.reduce(function (a, c) { return a + c; }, 0), y = 2;
        part.colour.map(function (c, g) { return [c, g + 1]; }).sort(function (a, b) { return a[0] - b[0]; }).concat([[0, 0]]).forEach(function (pair) {
          var h = counts[pair[1]] / whole * high;
          p.fillStyle = view.colour(pair[1]); p.fillRect(5 + n * w, y, Math.max(0.6, w - 1), h); y += h;
        });
        if (5 + n * w - last > 52) {
          p.fillStyle = "#52616b"; p.font = "10px sans-serif"; p.textAlign = "left"; p.textBaseline = "bottom";
          p.fillText(key, 5 + n * w, at.h); last = 5 + n * w;
        }
      });
    }
    view.listen(function (changed) { if (touches(changed, ["method", "at", "picked"])) draw(); });
    redraw(canvas, draw);
  };
})(fjordline);

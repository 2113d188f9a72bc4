// The rows in a plane: any two axes, the pointer reads a row, a click takes it, a drag draws a line around rows. With a
// third axis a drag turns the rows instead.
(function (fl) {
  "use strict";
  var many = 6000, edge = { left: 46, right: 12, top: 10, bottom: 38 };

  // `shown`: what to draw: part (labels and colours), marked (rows to ring); all the rest is in the view.
  fl.Plane = function (view, canvas, tip, options) {
    var pen = canvas.getContext("2d"), ratio = window.devicePixelRatio || 1;
    var px = new Float32Array(view.n), py = new Float32Array(view.n), width = 0, height = 0, grid = null, line = null;
    var held = null, partOf = options && options.part || function () { return view.part(); };

    function size() {
      width = canvas.clientWidth; height = canvas.clientHeight;
      canvas.width = Math.max(1, width * ratio); canvas.height = Math.max(1, height * ratio);
    }

    function scaled(axis, from, to, out) {
      var low = Infinity, high = -Infinity, v = axis.values, i;
      for (i = 0; i < v.length; i++) { if (v[i] < low) low = v[i]; if (v[i] > high) high = v[i]; }
      if (!(high > low)) { low -= 0.5; high = low + 1; }
      var pad = 0.04 * (high - low), a = low - pad, b = high + pad;
      for (i = 0; i < v.length; i++) out[i] = from + (v[i] - a) / (b - a) * (to - from);
      return { low: a, high: b };
    }

    // The middle of the range of an axis, and half of it.
    function range(axis) {
      var low = Infinity, high = -Infinity, v = axis.values, i;
      for (i = 0; i < v.length; i++) { if (v[i] < low) low = v[i]; if (v[i] > high) high = v[i]; }
      return { middle: (low + high) / 2, half: Math.max((high - low) / 2, 1e-300) };
    }

    function turned() { return view.state.z >= 0; }

    function seen(a, b, c) {
      var ca = Math.cos(view.turn.around), sa = Math.sin(view.turn.around), cb = Math.cos(view.turn.above), sb = Math.sin(view.turn.above);
      var deep = a * sa + b * ca, unit = 0.3 * Math.min(width, 1.25 * height);
      return [width / 2 + (a * ca - b * sa) * unit, height / 2 - (c * cb + deep * sb) * unit];
    }

    function placeTurned() {
      var axes = ["x", "y", "z"].map(function (key) { return view.axes[view.state[key]]; }), ranges = axes.map(range);
      for (var i = 0; i < view.n; i++) {
        var at = seen((axes[0].values[i] - ranges[0].middle) / ranges[0].half, (axes[1].values[i] - ranges[1].middle) / ranges[1].half,
                      (axes[2].values[i] - ranges[2].middle) / ranges[2].half);
        px[i] = at[0]; py[i] = at[1];
      }
      grid = null;
    }

    function turnedAxes() {
      var from = seen(-1.1, -1.1, -1.1);
      pen.font = "12px sans-serif"; pen.textBaseline = "middle";
      [[1.2, -1.1, -1.1], [-1.1, 1.2, -1.1], [-1.1, -1.1, 1.2]].forEach(function (end, i) {
        var to = seen(end[0], end[1], end[2]);
        pen.strokeStyle = "#9aa5ac"; pen.lineWidth = 1; pen.beginPath(); pen.moveTo(from[0], from[1]); pen.lineTo(to[0], to[1]); pen.stroke();
        pen.fillStyle = "#16222b"; pen.textAlign = to[0] < width / 2 ? "left" : "right";
        pen.fillText(view.axes[view.state[["x", "y", "z"][i]]].name.replace(/:.*$/, ""), Math.max(4, Math.min(width - 4, to[0])), Math.max(8, Math.min(height - 8, to[1])));
      });
    }

    function place() {
      size();
      if (turned()) { placeTurned(); return; }
      var x = view.axes[view.state.x], y = view.axes[view.state.y];
      place.x = scaled(x, edge.left, width - edge.right, px);
      place.y = scaled(y, height - edge.bottom, edge.top, py);
      grid = null;
    }

    // Rows by cells of 16 pixels, made when the pointer first asks.
    function near(x, y) {
      var cell = 16, wide = Math.ceil(width / cell) + 1, i;
      if (!grid) {
        grid = new Map();
        for (i = 0; i < view.n; i++) {
          if (isNaN(px[i]) || isNaN(py[i])) continue;
          var key = Math.floor(py[i] / cell) * wide + Math.floor(px[i] / cell);
          if (!grid.has(key)) grid.set(key, []);
          grid.get(key).push(i);
        }
      }
      var best = -1, least = 144, cx = Math.floor(x / cell), cy = Math.floor(y / cell);
      for (var dy = -1; dy <= 1; dy++) for (var dx = -1; dx <= 1; dx++) {
        (grid.get((cy + dy) * wide + cx + dx) || []).forEach(function (r) {
          var d = (px[r] - x) * (px[r] - x) + (py[r] - y) * (py[r] - y);
          if (d < least) { least = d; best = r; }
        });
      }
      return best;
    }

    function faded(i, group) {
      if (view.picked) return !view.picked[i];
      return view.state.group > 0 && group[i] !== view.state.group && !(options && options.part);
    }

    function draw() {
      var part = partOf();
      pen.setTransform(ratio, 0, 0, ratio, 0, 0);
      pen.clearRect(0, 0, width, height);
      axes();
      if (view.n > many) drawMany(part); else drawFew(part);
      marks(part);
      if (line) outline();
      canvas.setAttribute("data-drawn", view.n);
    }

    function drawFew(part) {
      for (var pass = 0; pass < 2; pass++) {
        for (var i = 0; i < view.n; i++) {
          var fade = faded(i, part.group);
          if (fade !== (pass === 0) || isNaN(px[i]) || isNaN(py[i])) continue;
          pen.globalAlpha = fade ? 0.15 : 0.78;
          pen.fillStyle = pen.strokeStyle = view.colour(part.group[i], part);
          shape(part.group[i] < 1 || part.group[i] === fl.none ? -1 : part.colour[part.group[i] - 1], px[i], py[i]);
        }
      }
      pen.globalAlpha = 1;
    }

    // Groups differ by shape as well as by colour.
    function shape(colour, x, y) {
      var r = 3.4;
      pen.beginPath();
      switch (colour < 0 ? -1 : colour % 6) {
        case 1: pen.moveTo(x, y - r - 0.6); pen.lineTo(x + r, y + r); pen.lineTo(x - r, y + r); pen.closePath(); pen.fill(); break;
        case 2: pen.rect(x - r * 0.85, y - r * 0.85, 1.7 * r, 1.7 * r); pen.fill(); break;
        case 3: pen.moveTo(x, y - r - 0.4); pen.lineTo(x + r + 0.4, y); pen.lineTo(x, y + r + 0.4); pen.lineTo(x - r - 0.4, y); pen.closePath(); pen.fill(); break;
        case 4: pen.lineWidth = 1.8; pen.moveTo(x - r, y); pen.lineTo(x + r, y); pen.moveTo(x, y - r); pen.lineTo(x, y + r); pen.stroke(); break;
        case 5: pen.lineWidth = 1.8; pen.moveTo(x - r, y - r); pen.lineTo(x + r, y + r); pen.moveTo(x + r, y - r); pen.lineTo(x - r, y + r); pen.stroke(); break;
        case -1: pen.arc(x, y, 1.7, 0, 7); pen.fill(); break;
        default: pen.arc(x, y, r, 0, 7); pen.fill();
      }
    }

    // Squares of pixels, written straight into the picture.
    function drawMany(part) {
      var picture = pen.getImageData(0, 0, canvas.width, canvas.height), dots = new Uint32Array(picture.data.buffer);
      var side = Math.max(1, Math.round((view.n > 60000 ? 1.5 : 2.4) * ratio)), w = canvas.width, h = canvas.height;
      var ink = [], pale = [];
      for (var g = 0; g <= part.k; g++) { ink[g] = packed(view.colour(g, part), 1); pale[g] = packed(view.colour(g, part), 0.18); }
      ink[fl.none] = packed(view.data.noise, 1); pale[fl.none] = packed(view.data.noise, 0.18);
      for (var pass = 0; pass < 2; pass++) {
        for (var i = 0; i < view.n; i++) {
          var fade = faded(i, part.group);
          if (fade !== (pass === 0)) continue;
          var x = Math.round(px[i] * ratio), y = Math.round(py[i] * ratio);
          if (!(x >= 0 && y >= 0 && x + side < w && y + side < h)) continue;
          var colour = (fade ? pale : ink)[part.group[i]];
          for (var dy = 0; dy < side; dy++) for (var dx = 0; dx < side; dx++) dots[(y + dy) * w + x + dx] = colour;
        }
      }
      pen.putImageData(picture, 0, 0);
    }

    function packed(hex, strength) {
      var c = [1, 3, 5].map(function (at) { return Math.round(255 + strength * (parseInt(hex.substr(at, 2), 16) - 255)); });
      return (255 << 24 | c[2] << 16 | c[1] << 8 | c[0]) >>> 0;
    }

    // The middle of every group with its number or name, the row in hand, and rows to be ringed.
    function marks(part) {
      var x = new Float64Array(part.k + 1), y = new Float64Array(part.k + 1), n = new Float64Array(part.k + 1), i, g;
      for (i = 0; i < view.n; i++) {
        g = part.group[i];
        if (g >= 1 && g <= part.k && !isNaN(px[i]) && !isNaN(py[i])) { x[g] += px[i]; y[g] += py[i]; n[g]++; }
      }
      pen.textAlign = "center"; pen.textBaseline = "middle";
      for (g = 1; g <= part.k; g++) {
        if (!n[g]) continue;
        var cx = x[g] / n[g], cy = y[g] / n[g], name = view.name(g, part), own = name !== "group " + g;
        pen.fillStyle = view.colour(g, part); pen.strokeStyle = "#fff"; pen.lineWidth = 2;
        pen.beginPath(); pen.arc(cx, cy, 10, 0, 7); pen.fill(); pen.stroke();
        pen.font = "bold 12px sans-serif"; pen.fillStyle = inkOn(view.colour(g, part)); pen.fillText(g, cx, cy + 0.5);
        if (own) words(name.length > 26 ? name.slice(0, 25) + "\u2026" : name, cx, cy + 19);
      }
      if (view.state.row >= 0) ring(view.state.row, 8, 2.5);
      if (options && options.marked) options.marked().forEach(function (i) { ring(i, 5.5, 1.2); });
    }

    function ring(i, r, lineWidth) {
      if (isNaN(px[i]) || isNaN(py[i])) return;
      pen.strokeStyle = "#16222b"; pen.lineWidth = lineWidth;
      pen.beginPath(); pen.arc(px[i], py[i], r, 0, 7); pen.stroke();
    }

    function words(text, x, y) {
      pen.font = "12px sans-serif"; pen.lineWidth = 3.5; pen.strokeStyle = "rgba(255,255,255,0.9)";
      pen.strokeText(text, x, y); pen.fillStyle = "#16222b"; pen.fillText(text, x, y);
    }

    function inkOn(hex) {
      var c = [1, 3, 5].map(function (at) { return parseInt(hex.substr(at, 2), 16); });
      return 0.299 * c[0] + 0.587 * c[1] + 0.114 * c[2] > 150 ? "#16222b" : "#fff";
    }

    function axes() {
      if (turned()) { turnedAxes(); return; }
      pen.font = "11px sans-serif"; pen.fillStyle = "#52616b"; pen.strokeStyle = "#e7ebee"; pen.lineWidth = 1;
      ticks(place.x, view.axes[view.state.x]).forEach(function (t) {
        var at = edge.left + (t.at - place.x.low) / (place.x.high - place.x.low) * (width - edge.left - edge.right);
        pen.beginPath(); pen.moveTo(at, edge.top); pen.lineTo(at, height - edge.bottom); pen.stroke();
        pen.textAlign = "center"; pen.textBaseline = "top"; pen.fillText(t.text, at, height - edge.bottom + 4);
      });
      ticks(place.y, view.axes[view.state.y]).forEach(function (t) {
        var at = height - edge.bottom - (t.at - place.y.low) / (place.y.high - place.y.low) * (height - edge.bottom - edge.top);
        pen.beginPath(); pen.moveTo(edge.left, at); pen.lineTo(width - edge.right, at); pen.stroke();
        pen.textAlign = "right"; pen.textBaseline = "middle"; pen.fillText(t.text, edge.left - 5, at);
      });
      pen.fillStyle = "#16222b"; pen.font = "12px sans-serif"; pen.textAlign = "center"; pen.textBaseline = "bottom";
      pen.fillText(fitted(view.axes[view.state.x].name, width - edge.left - edge.right), (edge.left + width - edge.right) / 2, height - 4);
      pen.save(); pen.translate(11, (edge.top + height - edge.bottom) / 2); pen.rotate(-Math.PI / 2);
      pen.textBaseline = "middle"; pen.fillText(fitted(view.axes[view.state.y].name, height - edge.top - edge.bottom), 0, 0); pen.restore();
    }

    function fitted(text, room) {
      if (pen.measureText(text).width <= room) return text;
      while (text.length > 4 && pen.measureText(text + "\u2026").width > room) text = text.slice(0, -1);
      return text.replace(/[ ,]+$/, "") + "\u2026";
    }

    function ticks(range, axis) {
      var span = range.high - range.low, step = Math.pow(10, Math.floor(Math.log10(span / 4)));
      [5, 2].forEach(function (by) { if (span / (step * by) >= 3.5) step *= by; });
      var out = [];
      for (var t = Math.ceil(range.low / step) * step; t <= range.high; t += step) {
        var clean = Number(t.toPrecision(10));
        out.push({ at: t, text: axis.date ? fl.day(clean).slice(0, 7) : Math.abs(clean) >= 1e5 ? fl.digits(clean) : String(clean) });
      }
      return out;
    }

    function outline() {
      pen.strokeStyle = "#16222b"; pen.lineWidth = 1.2; pen.setLineDash([4, 3]); pen.beginPath();
      line.forEach(function (p, i) { if (i) pen.lineTo(p[0], p[1]); else pen.moveTo(p[0], p[1]); });
      pen.closePath(); pen.stroke(); pen.setLineDash([]);
    }

    function within(x, y) {
      var inside = false;
      for (var i = 0, j = line.length - 1; i < line.length; j = i++) {
        var a = line[i], b = line[j];
        if ((a[1] > y) !== (b[1] > y) && x < (b[0] - a[0]) * (y - a[1]) / (b[1] - a[1]) + a[0]) inside = !inside;
      }
      return inside;
    }

    function lasso() {
      var xs = line.map(function (p) { return p[0]; }), ys = line.map(function (p) { return p[1]; });
      var x0 = Math.min.apply(null, xs), x1 = Math.max.apply(null, xs), y0 = Math.min.apply(null, ys), y1 = Math.max.apply(null, ys);
      view.pickWhere(function (i) {
        return px[i] >= x0 && px[i] <= x1 && py[i] >= y0 && py[i] <= y1 && within(px[i], py[i]);
      });
    }

    function point(e) {
      var box = canvas.getBoundingClientRect();
      return [e.clientX - box.left, e.clientY - box.top];
    }

    function read(at) {
      var row = near(at[0], at[1]);
      tip.hidden = row < 0;
      if (row < 0) return;
      tip.textContent = "";
      tip.appendChild(fl.el("strong", { text: view.rowName(row) }));
      tip.appendChild(fl.el("div", { text: view.name(partOf().group[row], partOf()) }));
      view.columns.slice(0, 6).forEach(function (c) {
        tip.appendChild(fl.el("div", { text: c.name + " " + fl.shownValue(c, row) }));
      });
      tip.style.left = Math.min(px[row] + 14, width - 190) + "px";
      tip.style.top = Math.min(py[row] + 10, Math.max(0, height - 150)) + "px";
    }

    canvas.addEventListener("pointerdown", function (e) {
      held = point(e); line = null;
      try { canvas.setPointerCapture(e.pointerId); } catch (lost) { /* a made-up pointer has no capture */ }
    });
    canvas.addEventListener("pointermove", function (e) {
      var at = point(e);
      if (!held) { read(at); return; }
      if (turned() && !e.shiftKey && !line) {
        if (Math.hypot(at[0] - held[0], at[1] - held[1]) < 2) return;
        view.turn.around += (at[0] - held[0]) * 0.008;
        view.turn.above = Math.max(-1.57, Math.min(1.57, view.turn.above + (at[1] - held[1]) * 0.008));
        held = at; held.turned = true; tip.hidden = true; placeTurned(); draw();
        return;
      }
      if (!line && Math.hypot(at[0] - held[0], at[1] - held[1]) > 5) line = [held];
      if (line) { line.push(at); tip.hidden = true; draw(); }
    });
    canvas.addEventListener("pointerup", function (e) {
      var at = point(e), row;
      if (line && line.length > 2) { lasso(); line = null; draw(); }
      else if (held && !held.turned) {
        line = null;
        row = near(at[0], at[1]);
        view.change(row < 0 ? { row: -1, group: -1 } : { row: row, group: groupInHand(partOf().group[row]) });
      }
      held = null;
    });
    canvas.addEventListener("pointerleave", function () { tip.hidden = true; });

    function groupInHand(g) { return g >= 1 && g !== fl.none ? g : -1; }

    function later() { place(); draw(); }
    view.listen(function (changed) {
      var moved = changed.some(function (c) { return c === "all" || c === "x" || c === "y" || c === "z"; });
      if (moved) later(); else draw();
    });
    if (window.ResizeObserver) new ResizeObserver(later).observe(canvas);
    return { draw: draw, place: later, at: function (i) { return [px[i], py[i]]; } };
  };

  fl.shownValue = function (column, row) {
    var v = column.values[row];
    if (column.type === "level") return v === fl.none ? "missing" : column.levels[v - 1];
    if (isNaN(v)) return "missing";
    return column.type === "date" ? fl.day(v) : fl.digits(v, column.sd) + (column.unit ? " " + column.unit : "");
  };
})(fjordline);

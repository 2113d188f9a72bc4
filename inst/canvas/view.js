// What is shown and what was chosen: the data of one table, its groups at every count, the rows in hand. Parts of the
// page register here and are told what changed. Nothing is fitted here.
var fjordline = window.fjordline || {};
window.fjordline = fjordline;
(function (fl) {
  "use strict";
  var none = 255;

  function bytes(text) {
    var raw = atob(text), out = new Uint8Array(raw.length);
    for (var i = 0; i < raw.length; i++) out[i] = raw.charCodeAt(i);
    return out;
  }
  fl.bytes = bytes;
  fl.floats = function (text) { return new Float32Array(bytes(text).buffer); };
  fl.wholes = function (text) { return new Int32Array(bytes(text).buffer); };

  fl.el = function (tag, given, inside) {
    var out = document.createElement(tag);
    Object.keys(given || {}).forEach(function (key) {
      var value = given[key];
      if (key === "on") Object.keys(value).forEach(function (event) { out.addEventListener(event, value[event]); });
      else if (key === "text") out.textContent = value;
      else if (key === "style") Object.assign(out.style, value);
      else if (value !== null && value !== undefined && value !== false) out.setAttribute(key, value === true ? "" : value);
    });
    [].concat(inside || []).forEach(function (one) { if (one) out.appendChild(one); });
    return out;
  };

  fl.thousands = function (n) { return String(Math.round(n)).replace(/\B(?=(\d{3})+$)/g, ","); };
  // Three digits, and as many decimals more as the spread of a column asks for, so that differences can be seen.
  fl.digits = function (v, sd) {
    if (!isFinite(v)) return "";
    var size = Math.abs(v), own = size > 0 ? 2 - Math.floor(Math.log10(size)) : 0;
    if (size > 0 && size < 0.001) return v.toExponential(2);
    var decimals = Math.max(0, own, sd > 0 ? 2 - Math.ceil(Math.log10(sd)) : 0);
    if (decimals > 8) decimals = 8;
    var text = Number(size.toFixed(decimals));
    if (size >= 1000) {
      var whole = Math.floor(text), rest = decimals > 0 ? (text - whole).toFixed(decimals).slice(1).replace(/[.]?0+$/, "") : "";
      return (v < 0 ? "-" : "") + fl.thousands(whole) + rest;
    }
    return (v < 0 ? "-" : "") + text;
  };
  fl.percent = function (share) {
    return share > 0 && share < 0.01 ? "under 1%" : Math.round(100 * share) + "%";
  };
  fl.rows = function (n) { return fl.thousands(n) + (n === 1 ? " row" : " rows"); };
  fl.day = function (days) { return new Date(days * 86400000).toISOString().slice(0, 10); };

  function View(data) {
    var view = this;
    view.data = data;
    view.n = data.shown;
    view.rows = fl.wholes(data.rows);
    view.columns = data.columns.map(function (c) {
      var out = { name: c.name, unit: c.unit, role: c.role, type: c.type, levels: c.levels };
      out.values = c.type === "level" ? bytes(c.values) : fl.floats(c.values);
      if (c.type === "number") spread(out);
      return out;
    });
    view.axes = data.axes.map(function (a) { return { name: a.name, values: fl.floats(a.values), plain: true }; })
      .concat(view.columns.filter(function (c) { return c.type !== "level"; }).map(function (c) {
        return { name: c.name + (c.unit ? " (" + c.unit + ")" : ""), values: c.values, date: c.type === "date" };
      }));
    view.sets = data.sets.map(function (s) {
      return {
        method: s.method, label: s.label, counts: s.counts, byCentres: s.by_centres, indices: s.indices || [],
        parts: s.parts.map(function (p) {
          return { k: p.k, group: bytes(p.group), colour: p.colour, sizes: p.sizes, width: bytes(p.width),
                   nearest: bytes(p.nearest), far: bytes(p.far), sure: p.sure ? bytes(p.sure) : null };
        })
      };
    });
    view.names = Object.assign({}, data.names || {});
    view.state = { method: data.method, at: data.at, x: 0, y: Math.min(1, view.axes.length - 1), z: -1, group: -1, row: -1 };
    view.turn = { around: 0.6, above: 0.5 };
    view.picked = null;
    view.listeners = [];
    view.kept = {};
  }

  function spread(column) {
    var sum = 0, n = 0, square = 0, v = column.values, i;
    for (i = 0; i < v.length; i++) if (!isNaN(v[i])) { sum += v[i]; n++; }
    column.mean = sum / n;
    for (i = 0; i < v.length; i++) if (!isNaN(v[i])) square += (v[i] - column.mean) * (v[i] - column.mean);
    column.sd = Math.sqrt(square / Math.max(1, n - 1));
  }

  View.prototype = {
    set: function () { return this.sets[this.state.method]; },
    part: function () { return this.set().parts[this.state.at]; },
    colour: function (g, part) {
      return g < 1 || g === none ? this.data.noise : this.data.colours[(part || this.part()).colour[g - 1]];
    },
    name: function (g, part) {
      if (g === none) return "no group";
      if (g < 1) return "noise";
      return this.names[(part || this.part()).colour[g - 1]] || "group " + g;
    },
    named: function (g) { return g > 0 && this.names[this.part().colour[g - 1]] !== undefined; },
    rename: function (g, name) {
      var key = this.part().colour[g - 1], clean = name.trim();
      if (clean) this.names[key] = clean; else delete this.names[key];
      this.tell(["names"]);
    },
    rowName: function (i) { return this.data.ids ? this.data.ids[i] : "row " + this.rows[i]; },
    find: function (text) {
      var wanted = text.trim().toLowerCase(), i;
      if (!wanted) return -1;
      for (i = 0; i < this.n; i++) if (this.rowName(i).toLowerCase() === wanted || String(this.rows[i]) === wanted) return i;
      for (i = 0; i < this.n; i++) if (this.rowName(i).toLowerCase().indexOf(wanted) === 0) return i;
      return -1;
    },
    listen: function (part) { this.listeners.push(part); part(["all"]); },
    tell: function (changed) { this.listeners.forEach(function (part) { part(changed); }); },
    change: function (patch) {
      var before = this.state, now = Object.assign({}, before, patch), changed = [];
      var parts = this.sets[now.method].parts;
      now.at = Math.max(0, Math.min(parts.length - 1, now.at));
      Object.keys(now).forEach(function (key) { if (now[key] !== before[key]) changed.push(key); });
      if (changed.length === 0) return;
      // a group in hand goes on by its colour
      if ((now.at !== before.at || now.method !== before.method) && patch.group === undefined && before.group > 0) {
        var colour = this.part().colour[before.group - 1];
        now.group = parts[now.at].colour.indexOf(colour) + 1 || -1;
      }
      this.state = now;
      this.tell(changed);
    },
    // Directions that were made later; they are looked at at once.
    addAxes: function (axes) {
      var first = this.axes.length;
      this.axes = this.axes.concat(axes.map(function (a) { return { name: a.name, values: fl.floats(a.values), plain: true }; }));
      this.tell(["axes"]);
      this.change({ x: first, y: first + 1, z: -1 });
    },
    step: function (by) { this.change({ at: this.state.at + by }); },
    // The same count, or the next to it, of another method.
    useMethod: function (m) {
      var k = this.part().k, counts = this.sets[m].counts, best = 0;
      counts.forEach(function (c, i) { if (Math.abs(c - k) < Math.abs(counts[best] - k)) best = i; });
      this.change({ method: m, at: best });
    },
    pick: function (mask) {
      this.picked = mask && mask.indexOf(1) >= 0 ? mask : null;
      this.tell(["picked"]);
    },
    pickWhere: function (test) {
      var mask = new Uint8Array(this.n);
      for (var i = 0; i < this.n; i++) if (test(i)) mask[i] = 1;
      this.pick(mask);
    },
    pickedRows: function () {
      var out = [];
      if (this.picked) for (var i = 0; i < this.n; i++) if (this.picked[i]) out.push(i);
      return out;
    },
    // Means and shares of every group, kept for every count that was looked at.
    summary: function () {
      var key = this.state.method + ":" + this.state.at, part = this.part();
      if (!this.kept[key]) this.kept[key] = summarised(this.columns, part.group, part.k, this.n);
      return this.kept[key];
    },
    pickedSummary: function () {
      if (!this.picked) return null;
      var group = new Uint8Array(this.n), i;
      for (i = 0; i < this.n; i++) group[i] = this.picked[i] ? 1 : none;
      return summarised(this.columns, group, 1, this.n);
    }
  };

  function summarised(columns, group, k, n) {
    var sizes = new Array(k + 1).fill(0), i;
    for (i = 0; i < n; i++) if (group[i] <= k) sizes[group[i]]++;
    return {
      sizes: sizes,
      columns: columns.map(function (c) {
        var counted = new Float64Array(k + 1), v = c.values, j, g;
        if (c.type === "level") {
          var shares = c.levels.map(function () { return new Float64Array(k + 1); }), all = new Float64Array(c.levels.length), known = 0;
          for (j = 0; j < n; j++) {
            if (v[j] === none) continue;
            known++; all[v[j] - 1]++;
            g = group[j];
            if (g <= k) { counted[g]++; shares[v[j] - 1][g]++; }
          }
          shares.forEach(function (s) { for (g = 0; g <= k; g++) s[g] /= counted[g] || NaN; });
          return { shares: shares, all: all.map(function (a) { return a / (known || NaN); }) };
        }
        var sums = new Float64Array(k + 1);
        for (j = 0; j < n; j++) {
          g = group[j];
          if (g <= k && !isNaN(v[j])) { sums[g] += v[j]; counted[g]++; }
        }
        for (g = 0; g <= k; g++) sums[g] /= counted[g] || NaN;
        return { means: sums };
      })
    };
  }

  // Lines of a profile: a number column, or a level of a category, with what each group differs by, in overall sds.
  fl.profileLines = function (view, summary) {
    var lines = [];
    view.columns.forEach(function (c, j) {
      var s = summary.columns[j];
      if (c.type === "number") {
        lines.push({ column: j, label: c.name + (c.unit ? " (" + c.unit + ")" : ""), role: c.role, all: c.mean,
                     value: function (g) { return s.means[g]; }, show: function (v) { return fl.digits(v, c.sd); },
                     apart: function (g) { return c.sd > 0 ? (s.means[g] - c.mean) / c.sd : 0; } });
      } else if (c.type === "level") {
        c.levels.forEach(function (level, l) {
          if (c.levels.length === 2 && level === "FALSE") return;  // said by TRUE
          var all = s.all[l], sd = Math.sqrt(all * (1 - all));
          lines.push({ column: j, label: c.levels.length === 2 && level === "TRUE" ? c.name : c.name + ": " + level, role: c.role, all: all,
                       value: function (g) { return s.shares[l][g]; }, show: fl.percent,
                       apart: function (g) { return sd > 0 ? (s.shares[l][g] - all) / sd : 0; } });
        });
      }
    });
    return lines;
  };

  fl.View = View;
  fl.none = none;
})(fjordline);

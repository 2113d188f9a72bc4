// Two partitions of the same rows side by side: the same selection in both, and how rows flow from one to the other.
(function (fl) {
  "use strict";
  var el = fl.el;

  fl.compare = function (root, data) {
    var view = new fl.View(data), a = view.sets[0].parts[0], b = view.sets[1].parts[0];
    root.textContent = "";
    var planes = [a, b].map(function (part, i) {
      var canvas = el("canvas", { role: "img", "aria-label": view.sets[i].label }), tip = el("div", { "class": "fl-tip", hidden: true });
      return { part: part, canvas: canvas, tip: tip, tag: el("div", { "class": "fl-side-plane" }, [el("b", { text: view.sets[i].label }), el("div", { "class": "fl-plane" }, [canvas, tip])]) };
    });
    var flow = el("canvas", { "class": "fl-flow", role: "img", "aria-label": "Rows that both have" });
    root.appendChild(el("div", { "class": "fl-pair" }, [planes[0].tag, flow, planes[1].tag]));
    var below = el("div", { "class": "fl-below" }), left = el("div", { "class": "fl-box fl-panel" }), right = el("div", { "class": "fl-side" });
    root.appendChild(below); below.appendChild(left); below.appendChild(right);
    planes.forEach(function (p) {
      p.plane = fl.Plane(view, p.canvas, p.tip, { part: function () { return p.part; } });
    });
    var odd = oddRows();
    right.appendChild(el("p", {}, [el("b", { text: fl.rows(odd.length) + " of " + fl.thousands(view.n) + " lie in groups that do not match. " }), el("button", { type: "button", text: "Select them", on: { click: function () {
      var mask = new Uint8Array(view.n); odd.forEach(function (i) { mask[i] = 1; }); view.pick(mask);
    } } })]));
    fl.card(view, right);
    table();
    view.listen(function (changed) { if (fl.touches(changed, ["picked"])) drawFlow(); });
    if (window.ResizeObserver) new ResizeObserver(drawFlow).observe(flow);
    root.view = view;
    root.setAttribute("data-ready", view.n);

    // Matched groups have one colour.
    function oddRows() {
      var out = [];
      for (var i = 0; i < view.n; i++) if (view.colour(a.group[i], a) !== view.colour(b.group[i], b)) out.push(i);
      return out;
    }

    function drawFlow() {
      var at = fl.pen(flow), p = at.pen, wide = 16;
      var from = fl.bar(a, wide / 2, 4, at.h - 8), to = fl.bar(b, at.w - wide / 2, 4, at.h - 8);
      p.globalAlpha = 0.35; fl.ribbons(p, from, to, fl.flows(a, b, view.n), wide, view); p.globalAlpha = 1;
      [[from, a], [to, b]].forEach(function (side) {
        side[0].order.forEach(function (g) {
          p.fillStyle = view.colour(g, side[1]);
          p.fillRect(side[0].x - wide / 2, side[0].from[g][0], wide, Math.max(0.5, side[0].from[g][1]));
        });
      });
    }

    // Groups of the first down, of the second across; a cell takes its rows.
    function table() {
      var flows = fl.flows(a, b, view.n), wide = b.k + 1, head = el("tr", {}, [el("th", { text: "rows in both" })]);
      for (var h = 1; h <= b.k; h++) head.appendChild(el("th", {}, [dot(h, b), el("b", { text: h })]));
      var body = [];
      for (var g = 1; g <= a.k; g++) body.push(line(g));
      left.appendChild(el("table", { "class": "fl-profile fl-classes" }, [el("thead", {}, [head]), el("tbody", {}, body)]));
      function line(g) {
        var row = el("tr", {}, [el("th", {}, [dot(g, a), el("b", { text: view.name(g, a) })])]);
        for (var h = 1; h <= b.k; h++) row.appendChild(cell(g, h, flows[g * wide + h]));
        return row;
      }
      function cell(g, h, n) {
        return el("td", {}, [n ? el("button", { type: "button", text: fl.thousands(n), title: "select these rows", on: { click: function () {
          view.pickWhere(function (i) { return a.group[i] === g && b.group[i] === h; });
        } } }) : null]);
      }
    }

    function dot(g, part) { return el("span", { "class": "fl-dot", style: { background: view.colour(g, part) } }); }
    return view;
  };
})(fjordline);

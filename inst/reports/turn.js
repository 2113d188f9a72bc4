// Rows in three dimensions on a plain canvas: drag or arrow keys turn, the wheel brings nearer, the pointer reads a row,
// a click in the legend hides a group. Text from the table only ever becomes textContent.
(function () {
  "use strict";
  function turnable(root) {
    var data = JSON.parse(root.querySelector("script[type='application/json']").textContent);
    var canvas = root.querySelector("canvas"), tip = root.querySelector(".tip"), legend = root.querySelector(".legend");
    var pen = canvas.getContext("2d"), ratio = window.devicePixelRatio || 1;
    var view = { around: 0.55, above: 0.65, zoom: 1 }, hidden = {}, shown = [], held = null;
    var width = canvas.clientWidth, height = canvas.clientHeight;
    canvas.width = width * ratio; canvas.height = height * ratio;
    pen.scale(ratio, ratio);

    function seen(p) {
      var ca = Math.cos(view.around), sa = Math.sin(view.around), cb = Math.cos(view.above), sb = Math.sin(view.above);
      var x = p[0] * ca - p[1] * sa, deep = p[0] * sa + p[1] * ca, up = p[2] * cb + deep * sb;
      deep = deep * cb - p[2] * sb;
      var scale = 0.45 * Math.min(0.8 * width, height) * view.zoom * 3.2 / (3.2 + deep);
      return { x: width / 2 + x * scale, y: height * 0.47 - up * scale, deep: deep, scale: scale };
    }

    // Axes cross in the lowest corner, out of the way of the rows.
    function axis(i) {
      var from = data.reach.map(function (r) { return -1.05 * r; }), to = from.slice();
      to[i] = 1.12 * data.reach[i];
      var a = seen(from), b = seen(to);
      pen.strokeStyle = "#9aa5ac"; pen.lineWidth = 1;
      pen.beginPath(); pen.moveTo(a.x, a.y); pen.lineTo(b.x, b.y); pen.stroke();
      return b;
    }

    function words(i, at) {
      pen.font = "12px sans-serif"; pen.textAlign = at.x < width / 2 ? "left" : "right";
      pen.lineWidth = 4; pen.strokeStyle = "rgba(255,255,255,0.85)"; pen.fillStyle = "#16222b";
      data.axes[i].split("\n").forEach(function (line, n) {
        pen.strokeText(line, at.x, at.y + 14 * n); pen.fillText(line, at.x, at.y + 14 * n);
      });
    }

    function draw() {
      pen.clearRect(0, 0, width, height);
      var ends = [0, 1, 2].map(axis);
      shown = data.points.map(function (p, i) { var s = seen(p); s.row = i; return s; })
        .filter(function (s) { return !hidden[data.group[s.row]]; })
        .sort(function (a, b) { return b.deep - a.deep; });
      shown.forEach(function (s) {
        pen.globalAlpha = Math.max(0.35, Math.min(0.95, 0.75 - 0.3 * s.deep));
        pen.fillStyle = data.colours[data.group[s.row]];
        pen.beginPath(); pen.arc(s.x, s.y, Math.max(1.5, 0.017 * s.scale), 0, 7); pen.fill();
      });
      pen.globalAlpha = 1;
      ends.forEach(function (end, i) { words(i, end); });
    }

    function read(x, y) {
      var best = null, near = 144;
      shown.forEach(function (s) {
        var d = (s.x - x) * (s.x - x) + (s.y - y) * (s.y - y);
        if (d < near || d === near && best && s.deep < best.deep) { near = d; best = s; }
      });
      tip.hidden = !best;
      if (!best) return;
      tip.textContent = "";
      data.told[best.row].forEach(function (line, n) {
        var part = document.createElement(n === 0 ? "strong" : "div");
        part.textContent = line; tip.appendChild(part);
      });
      tip.style.left = Math.min(best.x + 14, width - 200) + "px"; tip.style.top = best.y + 10 + "px";
    }

    canvas.addEventListener("pointerdown", function (e) { held = [e.clientX, e.clientY]; canvas.setPointerCapture(e.pointerId); });
    canvas.addEventListener("pointerup", function () { held = null; });
    canvas.addEventListener("pointermove", function (e) {
      var box = canvas.getBoundingClientRect();
      if (!held) { read(e.clientX - box.left, e.clientY - box.top); return; }
      turn((e.clientX - held[0]) * 0.008, (e.clientY - held[1]) * 0.008);
      held = [e.clientX, e.clientY]; tip.hidden = true;
    });
    canvas.addEventListener("pointerleave", function () { tip.hidden = true; });
    canvas.addEventListener("wheel", function (e) {
      e.preventDefault(); view.zoom = Math.max(0.4, Math.min(6, view.zoom * Math.exp(-e.deltaY * 0.001))); draw();
    }, { passive: false });
    canvas.addEventListener("keydown", function (e) {
      var step = { ArrowLeft: [-0.1, 0], ArrowRight: [0.1, 0], ArrowUp: [0, -0.1], ArrowDown: [0, 0.1] }[e.key];
      if (step) { e.preventDefault(); turn(step[0], step[1]); }
    });
    function turn(around, above) {
      view.around += around;
      view.above = Math.max(-1.57, Math.min(1.57, view.above + above));
      draw();
    }

    data.names.forEach(function (name, g) {
      var button = document.createElement("button"), dot = document.createElement("span");
      dot.style.background = data.colours[g];
      button.type = "button"; button.appendChild(dot); button.appendChild(document.createTextNode(name));
      button.setAttribute("aria-pressed", "true");
      button.addEventListener("click", function () {
        hidden[g] = !hidden[g]; button.setAttribute("aria-pressed", String(!hidden[g])); draw();
      });
      legend.appendChild(button);
    });
    draw();
    root.setAttribute("data-drawn", shown.length);
  }
  document.querySelectorAll(".turnable").forEach(turnable);
})();

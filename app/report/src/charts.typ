// Charts, drawn as curves to the size that is asked for; colours never carry meaning alone.
#let ink = rgb("#15232b")
#let soft = rgb("#4a5860")
#let hair = rgb("#d6d4ca")
#let grid-line = rgb("#dfe7e2")
#let water = rgb("#10667f")
#let wash = rgb("#d9ebef")
#let danger = rgb("#b30f4b")

#let small(body, fill: soft) = text(size: 7.5pt, fill: fill, body)

// A line there and back: a polygon takes bare points, a curve an element for each, and a long hold has thousands.
#let line-through(points, stroke) = if points.len() > 1 {
  place(polygon(stroke: (paint: stroke.paint, thickness: stroke.thickness, join: "round"), ..points, ..points.rev().slice(1, -1)))
}
#let polyline(points, width, height, stroke) = line-through(points.map(p => (p.at(0) * width, (1 - p.at(1)) * height)), stroke)

#let levels = (
  lower: (stroke: 1.1pt + ink, fill: ink),
  upper: (stroke: (paint: danger, thickness: 1.1pt, dash: "dashed"), fill: danger),
  planned: (stroke: (paint: water, thickness: 0.8pt, dash: "dash-dotted"), fill: water),
)

// Pressure against time with temperatures beneath, on one axis of time.
#let time-chart(c, width, height, numbered: false) = {
  let low = 20mm
  let top = if numbered { 7.4mm } else { 4mm }
  let w = width - 13mm - 13mm
  block(width: width, height: height + low + top + 4mm, breakable: false, {
    place(dx: 13mm, dy: top, block(width: w, height: height, {
      place(rect(width: w, height: height, stroke: 0.4pt + hair))
      place(dx: c.hold.at(0) * w, rect(width: (c.hold.at(1) - c.hold.at(0)) * w, height: height, fill: wash.transparentize(55%)))
      for t in c.pressures {
        place(dy: (1 - t.at) * height, line(length: w, stroke: 0.3pt + grid-line))
        place(dx: -14mm, dy: (1 - t.at) * height - 1.4mm, block(width: 12.5mm, align(right, small(t.label))))
      }
      for t in c.times { place(dx: t.at * w, line(length: height, angle: 90deg, stroke: 0.3pt + grid-line)) }
      if c.band.len() > 2 {
        place(polygon(fill: water.transparentize(70%), ..c.band.map(p => (p.at(0) * w, (1 - p.at(1)) * height))))
      }
      for l in c.levels {
        let look = levels.at(l.kind)
        place(dy: (1 - l.at) * height, line(length: w, stroke: look.stroke))
        // beside the picture, where no event is told
        place(dx: w + 1mm, dy: (1 - l.at) * height + if l.kind == "lower" { -0.4mm } else { -2.4mm }, block(width: 12mm, small(fill: look.fill, l.label)))
      }
      // what lies off the scale leaves the picture
      place(block(width: w, height: height, clip: true, polyline(c.pressure, w, height, 0.7pt + ink)))
      for (i, f) in c.flags.enumerate() {
        place(dx: f.at * w, line(length: height, angle: 90deg, stroke: (paint: if f.leak { danger } else { soft }, thickness: 0.5pt, dash: "dotted")))
        let words = small(fill: if f.leak { danger } else { ink }, if numbered { str(f.number) } else { f.label })
        if numbered { place(dx: f.at * w - 4mm, dy: -3.2mm - calc.rem(i, 2) * 3mm, block(width: 8mm, align(center, words))) } else {
          let dx = if f.left { -45mm } else { 0.8mm }
          if f.row != none { place(dx: f.at * w + dx, dy: 0.6mm + f.row * 3.2mm, block(width: 44mm, align(if f.left { right } else { left }, words))) }
        }
      }
    }))
    place(dx: 0mm, dy: 0mm, small(c.unit))
    place(dx: 13mm, dy: height + top + 2mm, block(width: w, height: low - 6mm, {
      place(rect(width: w, height: low - 6mm, stroke: 0.4pt + hair))
      for t in c.times {
        place(dx: t.at * w, line(length: low - 6mm, angle: 90deg, stroke: 0.3pt + grid-line))
        place(dx: t.at * w - 8mm, dy: low - 5mm, block(width: 16mm, align(center, small(t.label))))
      }
      for t in c.temperatures { place(dx: -14mm, dy: (1 - t.at) * (low - 6mm) - 1.4mm, block(width: 12.5mm, align(right, small(t.label)))) }
      polyline(c.temperature, w, low - 6mm, 0.7pt + water)
      place(dx: w - 31mm, dy: 0.8mm, block(width: 30mm, align(right, small(fill: water, if c.temperature.len() > 1 [temperature, °C] else [no temperature was read]))))
    }))
  })
}

// The hold as a round chart: time clockwise from the top, pressure outwards; the bounds as circles.
#let round-chart(c, size) = block(width: size, height: size, breakable: false, {
  let r = size / 2 - 5mm
  let middle = size / 2
  for t in c.circles {
    place(dx: middle - t.at * r, dy: middle - t.at * r, circle(radius: t.at * r, stroke: 0.3pt + grid-line.darken(12%)))
    place(dx: middle + 0.6mm, dy: middle - t.at * r - 1.2mm, small(t.label))
  }
  for t in c.spokes {
    let a = t.at * 360deg - 90deg
    place(dx: middle + 0.2 * r * calc.cos(a), dy: middle + 0.2 * r * calc.sin(a), line(length: 0.8 * r, angle: a, stroke: 0.3pt + grid-line.darken(12%)))
    place(dx: middle + (r + 3mm) * calc.cos(a) - 5mm, dy: middle + (r + 3mm) * calc.sin(a) - 1.3mm, block(width: 10mm, align(center, small(t.label))))
  }
  for l in c.levels {
    let look = levels.at(l.kind)
    place(dx: middle - l.at * r, dy: middle - l.at * r, circle(radius: l.at * r, stroke: look.stroke))
    place(dx: middle - l.at * r * 0.72 - 16mm, dy: middle - l.at * r * 0.72, block(width: 15mm, align(right, small(fill: look.fill, l.label))))
  }
  line-through(c.pressure.map(p => (middle + p.at(0) * r, middle + p.at(1) * r)), 0.8pt + ink)
})

// Height upwards, pressure across: every part from what it needs to what it bears, and the water column that passes through all.
#let window-picture(c, width, height) = block(width: width, height: height + 7mm, breakable: false, {
  let left = 38mm
  let w = width - left - 4mm
  place(dx: left, block(width: w, height: height, {
    place(rect(width: w, height: height, stroke: 0.4pt + hair))
    for t in c.pressures {
      place(dx: t.at * w, line(length: height, angle: 90deg, stroke: 0.3pt + grid-line))
      place(dx: t.at * w - 8mm, dy: height + 1mm, block(width: 16mm, align(center, small(t.label))))
    }
    let y(z) = (0.92 - 0.84 * z) * height
    let n = c.bars.len()
    for (i, b) in c.bars.enumerate() {
      place(dx: b.from * w, dy: y(b.at) - 1.2mm, rect(width: calc.max(b.to - b.from, 0.004) * w, height: 2.4mm, fill: wash, stroke: 0.5pt + ink))
      place(dx: -left, dy: y(b.at) - 1.4mm, block(width: left - 2mm, clip: true, align(right, small(fill: ink, b.tag + ", " + b.height))))
    }
    let a = c.column.at(0)
    let b = c.column.at(1)
    // where parts at one height were drawn apart, the column goes through each at its own pressure
    let through = c.bars.map(p => (p.column * w, y(p.at)))
    let down = if through.len() > 0 and through.first().at(1) < y(a.at(1)) { ((a.at(0) * w, y(a.at(1))),) } else { () }
    let up = if through.len() > 0 and through.last().at(1) > y(b.at(1)) { ((b.at(0) * w, y(b.at(1))),) } else { () }
    line-through(down + through + up, 1.2pt + water)
  }))
  place(dx: width - 12mm, dy: height + 4mm, small(c.unit))
})

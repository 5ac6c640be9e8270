#import "charts.typ": *
#let d = json("data.json")
#set document(title: d.title + " " + d.number + " " + d.subject, author: d.site, date: datetime(..d.date))
#let k = d.text_pt / 9.5
#let small(body, fill: soft) = text(size: calc.min(7.5, d.text_pt) * 1pt, fill: fill, body)
#set text(font: ("Atkinson Hyperlegible Next", "Inter", "Noto Sans", "Noto Sans Arabic", "Noto Sans Hebrew", "Noto Sans Devanagari", "Noto Sans Thai", "Noto Sans SC", "Noto Sans KR"), size: d.text_pt * 1pt, lang: "en", fill: ink)
#set par(leading: 0.55em, spacing: 0.8em)
#set page(
  paper: d.paper,
  margin: (x: 18mm, top: 16mm, bottom: 22mm),
  footer: context {
    line(length: 100%, stroke: 0.4pt + hair)
    v(-2mm)
    grid(
      columns: (1fr, auto, 1fr),
      small[#d.number #sym.dot.c #d.subject],
      small[page #counter(page).display() of #counter(page).final().first()],
      align(right, small[#d.seal]),
    )
  },
)
#set table(stroke: none, inset: (x: 2pt, y: 2.6pt))
#show table.cell.where(y: 0): set text(fill: soft, size: calc.min(8, d.text_pt) * 1pt)
#show heading.where(level: 1): it => block(above: 0mm, below: 3mm, text(size: 15pt, weight: 700, it.body))
#show heading.where(level: 2): it => block(above: k * 6mm, below: k * 2.5mm, sticky: true, width: 100%, stroke: (bottom: 0.5pt + soft), inset: (bottom: 1.2mm), text(size: k * 11pt, weight: 700, it.body))
#show heading.where(level: 3): it => block(above: 4mm, below: 1.5mm, sticky: true, text(size: 9.5pt, weight: 700, it.body))
// a text that begins from the right is read from there: its figures stand where its writer put them
#let from-the-right = regex("^[^\\p{L}]*[\\p{Hebrew}\\p{Arabic}]")
#let words(c) = if type(c) == str and c.match(from-the-right) != none { box(text(dir: rtl, c)) } else [#c]
#let rows(columns, head, body, align: left) = table(
  columns: columns,
  align: align,
  table.header(..head),
  table.hline(stroke: 0.4pt + hair),
  ..body.map(r => r.map(words)).flatten(),
)
#let facts-of(all, label) = grid(columns: (label, 1fr), row-gutter: 1.6mm, ..all.map(f => (text(fill: soft, f.at(0)), words(f.at(1)))).flatten())
#let facts = facts-of(d.facts, 34mm)
// the same in two columns of about equal height, where they have to go on one page
#let facts-abreast = {
  let lines = d.facts.map(f => calc.max(calc.ceil(f.at(1).len() / 58), calc.ceil(f.at(0).len() / 24)))
  let half = calc.ceil(lines.sum(default: 0) / 2)
  let upto = 0
  let n = 0
  while n < lines.len() and upto < half {
    upto += lines.at(n)
    n += 1
  }
  grid(columns: (1fr, 1fr), column-gutter: 6mm, facts-of(d.facts.slice(0, n), 29mm), facts-of(d.facts.slice(n), 29mm))
}
#let capital(words) = upper(words.first()) + words.slice(1)
#let colour = if d.outcome == "meets" { water } else if d.outcome == "not_complete" { rgb("#a34a05") } else { danger }

#if d.attached { pdf.attach("record.sealed.json", relationship: "source", mime-type: "application/json", description: "The sealed record that this report was printed from") }

= #d.title
#grid(columns: (1fr, auto), [*#d.number* #d.subject], align(right, text(fill: soft, d.site)))
#text(fill: soft, d.attempt)
#for m in d.marks { block(width: 100%, inset: 2mm, stroke: 0.8pt + danger, text(weight: 700, fill: danger, m)) }
#if d.draft { block(width: 100%, inset: 2mm, stroke: (paint: soft, dash: "dashed"), [*Draft.* Nobody has signed this; it proves nothing.]) }

#v(1mm)
#grid(
  columns: (34mm, 1fr),
  row-gutter: k * 2.6mm,
  text(fill: soft)[By the basis],
  [
    #text(size: k * 17pt, weight: 700, fill: colour)[#capital(d.outcome_words)]
    #for c in d.because [\ #c]
    #for c in d.decided [\ *#c*]
  ],
  text(fill: soft)[About a leak], [#d.leak],
  ..if d.would_settle.len() > 0 { (text(fill: soft)[What would settle it], d.would_settle.join([ ])) } else { () },
  text(fill: soft)[What was read], [#d.sentence],
)

#let signatures = [
  == Signatures
  #if d.signatures.len() == 0 [Nobody has signed yet.] else {
    table(
      columns: (20mm, 1fr, 34mm, 46mm),
      table.header([act], [states], [who], [when, proof]),
      table.hline(stroke: 0.4pt + hair),
      ..d.signatures.map(s => ([*#s.act*], [#s.statement], [#s.person #if s.drawing != "" [\ #image(bytes(s.drawing), format: "svg", width: 30mm, alt: "drawn signature")]], [#s.at \ #small(s.proof)])).flatten(),
    )
  }
]
#let readings = if d.readings.each {
  if d.readings.head.len() > 4 {
    rows((33mm,) + (1fr,) * (d.readings.head.len() - 2) + (9mm,), d.readings.head, d.readings.rows)
  } else {
  let two = calc.ceil(d.readings.rows.len() / 2)
  let half(part) = rows((33mm, 22mm, 20mm, 9mm), d.readings.head, part)
  if d.readings.rows.len() > 6 {
    grid(columns: (1fr, 1fr), column-gutter: 6mm, half(d.readings.rows.slice(0, two)), half(d.readings.rows.slice(two)))
  } else { half(d.readings.rows) }
  }
} else { rows((1fr, 28mm, 28mm, 22mm), d.readings.head, d.readings.rows) }
#let could-not = [
  == What this test could not have shown
  #list(..d.could_not.map(t => [#t]))
]
#let cautions = [
  == Cautions
  #list(..d.cautions.map(t => [#t]))
]
#let genuine = if d.content_sha256 != "" [
  #small[Content SHA-256 #d.content_sha256; key #d.key. #if d.attached [The sealed file is attached to this PDF.] Check it with `zero-leak verify` or at the verify page of any installation. Made by #d.software.]
]

#if d.certificate [
  #v(1mm)
  #facts-abreast
  #if d.stopped {
    figure(alt: "Chart of the run: pressure and temperature against time. Its figures stand in the attached record.", time-chart(d.whole, 174mm, k * 38mm))
  } else {
    figure(alt: "Chart of the hold: pressure and temperature against time. Its figures stand in the attached record.", time-chart(d.hold, 174mm, k * 38mm))
  }
  #readings
  #rows((20mm, 26mm, 1fr, 26mm, 44mm), ("instrument", "what", "range", "certificate", "valid"), d.instruments)
  #could-not
  #if d.signed_ever { signatures }
  #v(1mm)
  #for t in d.cautions [#small(t) ]
  #genuine
] else [
  == The test
  #facts

  #if d.earlier.len() > 0 [
    == Attempts before
    #rows((44mm, 44mm, 1fr), ("attempt", "what became of it", "leaks"), d.earlier)
  ]
  #if d.gates.len() > 0 [
    == Passed at the release
    #rows((44mm, 1fr), ("gate", "what was found"), d.gates)
  ]

  == Charts
  #if not d.stopped [
  === Hold, the last per cent
  #figure(alt: "Chart of the hold: pressure, what temperature alone would do, and temperatures against time. Its figures stand in the attached record.", time-chart(d.hold, 174mm, 62mm))
  ]
  === The whole run; the numbers are those of the table of events
  #figure(alt: "Chart of the whole run: pressure and temperatures against time with events. The events stand in a table.", time-chart(d.whole, 174mm, 52mm, numbered: true))
  #if not d.stopped [
  === The hold as a round chart, #d.round.unit; once round is #d.round.turn
  #figure(alt: "Round chart of the hold: pressure outwards, time clockwise from the top. It shows the same readings as the chart of the hold.", round-chart(d.round, 92mm))
  ]

  == Readings
  #readings

  == Events
  #small[Times in #d.zone.]
  #rows((8mm, 18mm, 54mm, 1fr, 26mm), ("no.", "time", "what", "note", "who"), d.events)
  === Leaks
  #if d.leaks.len() == 0 [No leak was seen.] else { rows((18mm, 44mm, 1fr), ("time", "class of place", "what was seen"), d.leaks) }
  === Where it was looked at
  #if d.looks.len() == 0 [No look is booked.] else { rows((54mm, 1fr), ("places", "found"), d.looks) }
  #if d.places.len() > 0 { rows((60mm, 1fr, 40mm), ("place", "found", "who, when"), d.places) }
  #if d.ways.len() > 0 [
    === What was decided
    #rows((18mm, 1fr), ("state", "what"), d.ways)
  ]

  #could-not

  == Rule by rule
  #rows((34mm, 18mm, 1fr, 26mm, 36mm), ("rule", "result", "what", "margin", "source"), d.rules)

  == Derivation
  #for w in d.derivations [
    #block(breakable: false, width: 100%)[
      === #w.figure: #w.result
      #w.sentence #if w.governed != "" [Governed by #w.governed.] \
      #w.formula
      #if w.inputs.len() > 0 { rows((24mm, 30mm, 1fr, 58mm), ("symbol", "value", "what", "from"), w.inputs) }
      #if w.rounding != "" [#w.rounding. ] #if w.change != "" [#w.change ]
      #small(w.source)
    ]
  ]

  == Parts and window
  #figure(alt: "Elevation and pressure of every part with the water column at the planned pressure. The same figures stand in the table of parts.", window-picture(d.window, 174mm, d.window.height_mm * 1mm))
  #if d.window.left_out > 0 [The picture shows the parts that come closest to the column; the table lists the other #d.window.left_out too.]
  #rows((42mm, 18mm, 16mm, 24mm, 24mm, 1fr), ("part", "kind", "height", "needs", "bears", "set by"), d.parts)

  == Instruments
  #rows((20mm, 26mm, 1fr, 26mm, 44mm), ("tag", "what", "range", "certificate", "valid"), d.instruments)
  === Where the readings come from
  #list(..d.sources.map(t => [#t]))

  == Put back
  #rows((18mm, 1fr), ("state", "what"), d.restore)
  #if d.owed.len() > 0 [
    === What was promised for afterwards
    #rows((22mm, 1fr), ("state", "what"), d.owed)
  ]
  #if d.punch.len() > 0 [
    === Punch list
    #rows((18mm, 1fr), ("state", "what"), d.punch)
  ]

  #cautions
  #if d.signed_ever { signatures }
  #v(2mm)
  #genuine
]

// A student's sheet. All words come from sheet.json, as text.
#let d = json("sheet.json")
#set document(title: d.title)
#set page(
  paper: d.paper,
  margin: (x: 14mm, y: 14mm),
  footer: context [
    #set text(size: 9pt)
    #d.student, #d.instrument #h(1fr) #counter(page).display("1 / 1", both: true)
  ],
)
#set text(size: 12pt, lang: "en")
#set par(leading: 0.6em)
#show heading.where(level: 1): set text(size: 20pt)
#show heading.where(level: 2): it => block(above: 1.4em, below: 0.7em, sticky: true, it)
#show heading.where(level: 3): it => block(above: 1.1em, below: 0.5em, sticky: true, it)

#let music(m) = {
  if m.title != "" [=== #m.title]
  if m.says != "" { block(below: 0.7em, sticky: true, text(m.says)) }
  for (file, width) in m.lines {
    block(breakable: false, below: 0.5em, image(file, width: calc.min(100%, width / 840 * 100%)))
  }
}

#let head = [
  = #d.title
  #text(d.student), #text(d.instrument) · written pitch
]
#if d.way == none { head } else {
  grid(
    columns: (1fr, 32mm, 32mm),
    column-gutter: 2mm,
    head,
    align(right, block(inset: (top: 3mm), text(size: 9pt, d.way))),
    image("way.svg", width: 32mm, alt: "Code that opens the student's page on a telephone"),
  )
}

#if d.passage != none { music(d.passage) }
#if d.ossia.len() > 0 [
  == Until the high notes are there
  #for m in d.ossia { music(m) }
]
#if d.moves.len() > 0 [
  == Moves to work on
  #for (where, notes, move, asks) in d.moves {
    block(breakable: false, below: 0.8em)[
      *#text(where), #text(notes).* #text(move)
      #if asks != "" [ \ #emph(text("Hard because: " + asks)) ]
    ]
  }
]
#if d.ladders.len() > 0 [
  == Ladders of tempi
  #block(sticky: true)[
    Three clean in a row, then up; a step back on a miss; five clean at the last one. Tick each clean one.
  ]
  #for l in d.ladders {
    block(breakable: false, above: 0.9em, below: 0.9em)[
      *#text(l.notes)* (#text(l.where)), #text(l.step) \
      #text(l.move)
      #if l.steps.len() > 0 {
        block(above: 0.6em)[
          #for (n, step) in l.steps.enumerate() {
            box(inset: (right: 10pt, bottom: 6pt))[
              ♩ = #step
              #for _ in range(if n + 1 == l.steps.len() { 5 } else { 3 }) {
                box(width: 11pt, height: 11pt, stroke: 0.8pt, baseline: 1.5pt)
                h(2pt)
              }
            ]
          }
        ]
      }
    ]
  }
]
#if d.drills.len() > 0 [
  == Drills
  #for m in d.drills { music(m) }
]
#if d.week != none [
  == The week#if d.week.note != "" [, with #text(d.week.note)]
  #set text(size: 10pt)
  #block(breakable: false, table(
    columns: (2.6fr, ..d.week.days.map(_ => 1fr)),
    stroke: 0.5pt,
    inset: 4pt,
    table.header([*Minutes*], ..d.week.days.map(day => [*#text(day)*])),
    ..d
      .week
      .rows
      .map(row => (
        [*#text(row.name)* #if row.says != "" [ \ #text(size: 9pt, row.says) ]],
        ..row.cells.map(((minutes, detail)) => if minutes == "" { [–] } else [
          #box(width: 9pt, height: 9pt, stroke: 0.8pt, baseline: 1pt) #text(minutes)
          #if detail != "" [ \ #text(size: 8pt, detail) ]
        ]),
      ))
      .flatten(),
  ))
  #if d.week.tones != "" [*Long tones, a breath each:* #text(d.week.tones)]

  #text(d.week.care)
]
#if d.cues.len() > 0 [
  == Tongue, vowel, air
  #for (about, words) in d.cues [- *#text(about):* #text(words)]
]
#if d.read != "" [
  == How to read the hands
  #text(d.read)
]
#block(above: 1.6em, stroke: (left: 2pt), inset: (left: 8pt, y: 3pt), breakable: false, text(d.caution))

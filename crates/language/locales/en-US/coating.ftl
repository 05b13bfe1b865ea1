# Coating, repelling, sealing.
coating-coating = Coating
coating-add-a-coating = Add a coating
coating-coating-repelling-and = Coating, repelling and sealing: what to buy and how to mix it in the jars you have, the hours the weather lets it go on and why not the others, the second coat on the first, and whether it did anything.
coating-coatings = Coatings
coating-coating-2 = Coating: { $name }
coating-type-its-area-or-choose-the = Type its area, or choose the boundary it is of.
coating-mix = Mix
coating-each-hour-one-could-begin = Each hour one could begin: || begin || not
coating-ruled-out = Ruled out:
coating-second-coat-wet-on-wet = Second coat, wet on wet
coating-a-repellent-takes-its = A repellent takes its second coat while the first is wet. Start the clock when the first is on; touch dry spots while wet.
coating-start-again = Start again
coating-first-coat-is-on = First coat is on
coating-clear-the-clock = Clear the clock
coating-dehumidifier = Dehumidifier

# Revestir, repeler, sellar.
coating-coating = Revestimiento
coating-add-a-coating = Añadir un revestimiento
coating-coating-repelling-and = Revestir, repeler y sellar: qué comprar y cómo mezclarlo en los recipientes que tiene, a qué horas el tiempo deja aplicarlo y por qué no a otras, la segunda mano sobre la primera, y si sirvió de algo.
coating-coatings = Revestimientos
coating-coating-2 = Revestimiento: { $name }
coating-type-its-area-or-choose-the = Escriba su superficie, o elija el cerramiento al que pertenece.
coating-mix = Mezcla
coating-each-hour-one-could-begin = Cada hora en que se podría empezar: || empezar || no
coating-ruled-out = Lo impide:
coating-second-coat-wet-on-wet = Segunda mano, mojado sobre mojado
coating-a-repellent-takes-its = Un repelente recibe su segunda mano mientras la primera está mojada. Ponga el reloj cuando la primera esté dada; retoque lo seco mientras esté mojado.
coating-start-again = Empezar otra vez
coating-first-coat-is-on = La primera mano está dada
coating-clear-the-clock = Borrar el reloj
coating-dehumidifier = Deshumidificador

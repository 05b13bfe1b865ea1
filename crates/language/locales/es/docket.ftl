docket = Trabajos
docket-new = Nuevo trabajo
docket-raised = Avisos de los registros
docket-rules = Reglas
docket-search = Nombre o dirección
docket-search-hint = nombre o dirección
docket-show = Mostrar
docket-narrow = Filtrar, ordenar, archivo
docket-any = cualquiera
docket-archive = Archivo
docket-worst = Lo peor
docket-due = Pendiente
docket-person = Persona
docket-structure = Construcción
docket-order = Orden
docket-looking = { $n ->
    [one] 1 trabajo más cambió y se está revisando; hasta entonces aparece como estaba.
   *[other] { $n } trabajos más cambiaron y se están revisando; hasta entonces aparecen como estaban.
}
docket-no-more = No hay más trabajos.
docket-first = Al primero
docket-no-words = Ningún trabajo tiene «{ $words }» en su nombre o dirección.
docket-no-such-words = Ningún trabajo así tiene «{ $words }» en su nombre o dirección.
docket-all = Todos los trabajos
docket-no-archive = El archivo está vacío. Un trabajo terminado se archiva desde su fila.
docket-back = A los trabajos
docket-none-so = Ningún trabajo está así.
docket-none = Todavía no hay trabajos.
docket-none-more = Abra uno: un nombre, el tipo de construcción, el clima y la temperatura exterior más fría prevista. En menos de un minuto el edificio queda dibujado.
docket-row-worst = lo peor: { $word }
docket-row-archived = En el archivo desde el { $day }.
docket-row-archived-until = En el archivo desde el { $day }; se borra el { $until }.
docket-row-no-visit = Aún sin visita: empiece la primera ronda.
docket-row-open = La visita { $visit } está abierta desde el { $moment }, { $readings ->
    [one] 1 lectura
   *[other] { $readings } lecturas
}.
docket-row-finished = La visita { $visit } terminó el { $day }.
docket-row-due = Pendiente para el { $day }
docket-row-overdue = Atrasado desde el { $day }
docket-go-on = Seguir
docket-round = Ronda
docket-at = en { $name }
docket-pin = Fijar
docket-pinned = Fijado
docket-put-away = Archivar
docket-put-back = Devolver
docket-found = Página { $page } de { $pages }, { $found ->
    [one] 1 trabajo
   *[other] { $found } trabajos
}
docket-soon = Pendiente en las próximas dos semanas
docket-overdue = atrasado
docket-done = Hecho
docket-more-due = Y { $n } más.
docket-calendar = Todo lo que hay que volver a mirar, también como calendario
docket-removed = Retirados
docket-removed-kept = Se guardan { $days } días.
docket-restore = Recuperar

# Alrededor de cada página.
skip = Ir al contenido
views = Vistas
places = Lugares
keys = Teclas
units-us = Unidades de EE. UU.: cambiar a métricas
units-metric = Unidades métricas: cambiar a las de EE. UU.
headlamp = Linterna
paper = Papel
account = Cuenta
account-title = { $name }: su cuenta
sign-out = Salir
signed-in-as = Ha entrado como { $name }
look-on = Usted solo mira: su función no le permite lo que se hace aquí ({ $right }).
pages = Páginas
page-before = Página anterior
page-after = Página siguiente
found-follow-ups = Página { $page } de { $pages }, { $found ->
    [one] 1 control
   *[other] { $found } controles
}
found-entries = Página { $page } de { $pages }, { $found ->
    [one] 1 entrada
   *[other] { $found } entradas
}

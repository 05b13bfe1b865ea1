"""Writes operations.jsonl: requests of the headless interface with answers found by other means.

Python 3.11, PsychroLib 2.5.0 (saturation pressure, humidity ratio), NumPy 2.4.6, SciPy 1.17.1.
Where the core has a closed form, this integrates; where the core takes a convex hull, this solves the obstacle
problem by active sets; where the core searches, this calls a library's own fit.

    python3 make_operations.py > operations.jsonl
"""

import json
import math

import numpy as np
import psychrolib as psy
from scipy import ndimage
from scipy.integrate import solve_ivp
from scipy.optimize import brentq, curve_fit
from scipy.stats import t as student

psy.SetUnitSystem(psy.SI)
P = 101325.0
DAY = 86400.0
DELTA0 = 2e-10


def sat(t):
    return psy.GetSatVapPres(t)


def pv(air):
    return air["rh_pct"] / 100 * sat(air["t_c"])


def ratio(p_v):
    return 0.621945 * p_v / (P - p_v)


def volume(t, p_v):
    return 287.042 * (t + 273.15) / (P - p_v)


def dew(p_v):
    return brentq(lambda t: sat(t) - p_v, -90, 90, xtol=1e-12)


def emit(source, request, answer, tolerance):
    print(json.dumps({"source": source, "request": request, "answer": answer, "tolerance": tolerance}))


def infrared():
    k = 273.15
    for app, e, refl, e0, refl0 in [(12.0, 0.93, 21.0, 1.0, None), (35.0, 0.7, -15.0, 0.95, 20.0), (4.5, 0.62, 24.0, 0.9, 24.0)]:
        request = {"op": "infrared", "apparent_c": app, "emissivity": e, "reflected_c": refl, "set_emissivity": e0}
        if refl0 is not None:
            request["set_reflected_c"] = refl0
        r0 = (refl if refl0 is None else refl0) + k
        reached = e0 * (app + k) ** 4 + (1 - e0) * r0**4
        # The object temperature whose own and reflected radiation reach the instrument.
        t = brentq(lambda t: e * (t + k) ** 4 + (1 - e) * (refl + k) ** 4 - reached, -99, 199, xtol=1e-12)
        emit("radiation balance solved by Brent's method (SciPy)", request, {"object_c": t}, 1e-8)


def budget():
    cases = [
        (30, 18, {"t_c": 2, "rh_pct": 85}, 0.008, 4e-5, 45, 10, 9.0),
        (18, 20, {"t_c": 25, "rh_pct": 75}, 0.02, 0, 50, 6, 17.0),
        (60, 12, {"t_c": 5, "rh_pct": 90}, 0.003, 2e-4, 60, 48, 8.0),
        (10, 21, {"t_c": -10, "rh_pct": 80}, 0.03, 1e-5, 70, 3, 12.0),
    ]
    for vol, t, out, flow, source, rh0, hours, surface in cases:
        mass = vol / volume(t, rh0 / 100 * sat(t))
        exchanged = flow / volume(out["t_c"], pv(out))
        w_out, w0, goal = ratio(pv(out)), ratio(rh0 / 100 * sat(t)), ratio(sat(surface))
        rhs = lambda _, w: (exchanged * (w_out - w) + source) / mass
        wet = lambda _, w: w[0] - goal
        wet.direction = 1
        far = solve_ivp(rhs, (0, 60 * DAY), [w0], rtol=1e-11, atol=1e-15, events=wet, dense_output=True)
        rh = lambda w: 100 * P * w / (0.621945 + w) / sat(t)
        end = float(solve_ivp(rhs, (0, hours * 3600), [w0], rtol=1e-11, atol=1e-15).y[0, -1])
        hit = 0.0 if w0 >= goal else (float(far.t_events[0][0]) / 3600 if len(far.t_events[0]) else None)
        steady = rh(float(far.y[0, -1]))
        request = {"op": "budget", "volume_m3": vol, "t_c": t, "outdoor": out, "flow_m3_s": flow, "source_kg_s": source,
                   "start_rh_pct": rh0, "hours": hours, "surface_c": surface}
        emit("mass balance integrated (SciPy solve_ivp)", request,
             {"end_rh_pct": rh(end), "steady_rh_pct": steady, "hours_to_dew": hit, "saturates": steady > 100}, 1e-5)


def grid(layers, r_si, r_se):
    r, s = [r_si], [0.0]
    for layer in layers:
        d = layer.get("thickness_m")
        r.append(layer["r_m2k_w"] if "r_m2k_w" in layer else d / layer["lambda_w_mk"])
        if "sd_m" in layer:
            s.append(layer["sd_m"])
        elif "mu" in layer:
            s.append(layer["mu"] * d)
        else:
            s.append(DELTA0 / layer["perm_kg_m2spa"])
    r = np.cumsum(r)
    return r, np.cumsum(s), r[-1] + r_se


def relax(s, p_sat, p_in, p_out, nailed):
    """Vapor pressure over depth with an obstacle above, by active sets: planes in contact with saturation are held
    there, the others follow from conservation (a linear system); contact is made where the line passes saturation and
    given up where it would feed water into the wall."""
    n, contact = len(s), nailed.copy()
    while True:
        a, b = np.eye(n), np.empty(n)
        b[0], b[-1] = p_in, p_out
        for i in range(1, n - 1):
            if contact[i]:
                b[i] = p_sat[i]
            else:
                left, right = 1 / (s[i] - s[i - 1]), 1 / (s[i + 1] - s[i])
                a[i, i - 1 : i + 2], b[i] = (-left, left + right, -right), 0
        p = np.linalg.solve(a, b)
        over = np.where(contact, 0, p - p_sat)
        over[[0, -1]] = 0
        feeding = contact & ~nailed & (rates(s, p) < -1e-12)
        if over.max() > 1e-9:
            contact[over.argmax()] = True
        elif feeding.any():
            contact[feeding.argmax()] = False
        else:
            return p


def rates(s, p):
    flow = -np.diff(p) / np.diff(s)
    return np.concatenate([[0], DELTA0 * (flow[:-1] - flow[1:]) * DAY * 1000, [0]])


def climate(r, total, inside, outside):
    t = inside["t_c"] - (inside["t_c"] - outside["t_c"]) * r / total
    return t, np.array([sat(x) for x in t])


WALL = [
    {"name": "gypsum board", "thickness_m": 0.0125, "lambda_w_mk": 0.25, "mu": 10},
    {"name": "mineral wool", "thickness_m": 0.14, "lambda_w_mk": 0.036, "mu": 1},
    {"name": "oriented strand board", "thickness_m": 0.012, "lambda_w_mk": 0.13, "mu": 200},
    {"name": "brick", "thickness_m": 0.115, "lambda_w_mk": 0.77, "mu": 16},
]
ROOF = [
    {"name": "boards", "r_m2k_w": 0.15, "sd_m": 0.4},
    {"name": "felt", "r_m2k_w": 0.5, "sd_m": 0.05},
    {"name": "felt", "r_m2k_w": 0.5, "sd_m": 0.05},
    {"name": "coated canvas", "r_m2k_w": 0.005, "perm_kg_m2spa": 5e-11},
    {"name": "air", "r_m2k_w": 0.16, "sd_m": 0.01},
    {"name": "metal", "r_m2k_w": 0, "sd_m": 50},
]


def assembly():
    dry, damp = {"t_c": 20, "rh_pct": 35}, {"t_c": 21, "rh_pct": 60}
    for layers, inside, outside in [
        (WALL, damp, {"t_c": -10, "rh_pct": 85}),
        (WALL, dry, {"t_c": 10, "rh_pct": 80}),
        (ROOF, damp, {"t_c": -5, "rh_pct": 90}),
        (ROOF, {"t_c": 24, "rh_pct": 50}, {"t_c": 32, "rh_pct": 75}),
    ]:
        r, s, total = grid(layers, 0.13, 0.04)
        t, p_sat = climate(r, total, inside, outside)
        p = relax(s, p_sat, pv(inside), pv(outside), np.zeros(len(s), bool))
        rate = rates(s, p)
        emit("obstacle problem by active sets (NumPy), saturation from PsychroLib",
             {"op": "assembly", "inside": inside, "outside": outside, "layers": layers},
             {"u_w_m2k": 1 / total,
              "interfaces": [{"t_c": a, "sat_pa": b, "vapor_pa": c} for a, b, c in zip(t, p_sat, p)],
              "condensation": [{"interface": i, "rate_g_m2_day": g} for i, g in enumerate(rate) if g >= 1e-4]}, 2e-6)


def assembly_year():
    days = [31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31]
    out_t = [-6, -5, 1, 6, 12, 16, 18, 17, 13, 7, 1, -4]
    out_rh = [85, 83, 78, 72, 70, 70, 71, 74, 79, 83, 87, 88]
    for layers, indoor, start in [(WALL, 55, None), (ROOF, 45, 9), (WALL, 30, None)]:
        months = [{"inside": {"t_c": 20, "rh_pct": indoor}, "outside": {"t_c": t, "rh_pct": h}, "days": d}
                  for t, h, d in zip(out_t, out_rh, days)]
        r, s, total = grid(layers, 0.13, 0.04)

        def month(m, nailed):
            _, p_sat = climate(r, total, m["inside"], m["outside"])
            return rates(s, relax(s, p_sat, pv(m["inside"]), pv(m["outside"]), nailed)) * m["days"]

        none = np.zeros(len(s), bool)
        wet = [bool((month(m, none) > 1e-3).any()) for m in months]
        first = start - 1 if start else next((i for i in range(12) if wet[i] and not wet[i - 1]), 0)
        held, peak, result = np.zeros(len(s)), 0.0, [None] * 12
        for i in [(first + k) % 12 for k in range(12)]:
            gain = np.maximum(month(months[i], held > 0), -held)
            gain[np.abs(gain) < 1e-6] = 0
            held = held + gain
            held[held < 1e-9] = 0
            peak = max(peak, held.sum())
            result[i] = {"gain_g_m2": [{"interface": j, "g_m2": g} for j, g in enumerate(gain) if g != 0],
                         "held_g_m2": held.sum()}
        request = {"op": "assembly_year", "layers": layers, "months": months}
        if start:
            request["start_month"] = start
        emit("ISO 13788 months over the obstacle problem by active sets (NumPy)", request,
             {"months": result, "peak_g_m2": peak, "dries_out": bool(held.sum() == 0)}, 1e-5)


CLASSES = {"very_sensitive": (1, 2, 0, 1, 7, 2, 80), "sensitive": (0.578, 0.386, 1, 0.3, 6, 1, 80),
           "medium": (0.072, 0.097, 1, 0, 5, 1.5, 85), "resistant": (0.033, 0.014, 1, 0, 3, 1, 85)}


def mold():
    rng = np.random.default_rng(7)
    hour = np.arange(1500)
    t = np.round(12 + 9 * np.sin(hour / 170) + 4 * np.sin(hour / 24 * 2 * math.pi) + rng.normal(0, 1, hour.size), 1)
    rh = np.round(np.clip(90 + 9 * np.sin(hour / 90) + rng.normal(0, 2, hour.size), 0, 100), 1)
    for name, (k_low, k_high, w, a, b, c, least) in CLASSES.items():
        index, peak, dry, over = 0.2, 0.2, 0, {1: None, 3: None}
        for i, (ti, hi) in enumerate(zip(t, rh)):
            crit = max(-0.00267 * ti**3 + 0.160 * ti**2 - 3.13 * ti + 100, least) if ti <= 20 else least
            if ti > 0 and hi > crit:
                x = (crit - hi) / (crit - 100)
                top = a + b * x - c * x * x
                k2 = max(1 - math.exp(2.3 * (index - top)), 0)
                k1 = k_low if index < 1 else k_high
                index += k1 * k2 / (168 * ti**-0.68 * hi**-13.9 * math.exp(0.14 * w + 66.02))
                dry = 0
            else:
                dry += 1
                index = max(index - 0.25 * (0.00133 if dry <= 6 else 0 if dry <= 24 else 0.000667), 0)
            peak = max(peak, index)
            for level in over:
                if over[level] is None and index > level:
                    over[level] = i + 1
        emit("formula of the handbook written with powers (Python)",
             {"op": "mold_index", "hours": [[float(x), float(y)] for x, y in zip(t, rh)], "class": name, "start": 0.2, "decline": 0.25},
             {"peak": peak, "end": index, "first_hour_over_1": over[1], "first_hour_over_3": over[3]}, 1e-9)


def insulation():
    inside = {"t_c": 21, "rh_pct": 55}
    for target, share in [("no_condensation", 1.0), ("no_mold", 0.8)]:
        needed = dew(pv(inside) / share)
        surface = lambda extra: 21 - (21 + 12) * 0.25 / (0.6 + extra)
        emit("surface temperature solved by Brent's method (SciPy)",
             {"op": "insulation_for", "inside": inside, "outside_c": -12, "r_existing_m2k_w": 0.6, "r_si": 0.25, "target": target},
             {"r_added_m2k_w": brentq(lambda r: surface(r) - needed, 0, 50, xtol=1e-13), "surface_c_before": surface(0)}, 1e-6)


def duct():
    for air, around, flow, d, length, r, kg, c, minutes in [
        ({"t_c": 24, "rh_pct": 85}, -5, 0.0236, 0.1, 4, 0.7, 3.9, 460, 15),
        ({"t_c": 24, "rh_pct": 85}, -5, 0.0236, 0.1, 4, 1.0, 0.3, 1000, 15),
        ({"t_c": 22, "rh_pct": 70}, -15, 0.012, 0.125, 9, 0.0, 3.9, 460, 20),
        ({"t_c": 23, "rh_pct": 60}, 0, 0.002, 0.15, 3, 1.4, 3.9, 460, 10),
    ]:
        w0, p_v = ratio(pv(air)), pv(air)
        dry = flow / volume(air["t_c"], p_v)
        cp = 1006 + 1860 * w0
        re = flow / (math.pi / 4 * d * d) * d / 15.2e-6
        f = (0.79 * math.log(re) - 1.64) ** -2
        nu = 3.66 if re < 2300 else f / 8 * (re - 1000) * 0.71 / (1 + 12.7 * math.sqrt(f / 8) * (0.71 ** (2 / 3) - 1))
        h, u = nu * 0.0257 / d, 1 / (r + 0.1)
        n = 400
        dx = length / n
        ntu = h * math.pi * d * dx / (dry * cp)
        through = math.exp(-ntu)
        point = dew(p_v)

        def march(wall):
            """Air temperature entering each slice, and condensate in kg/s."""
            t, w, inlet, water = air["t_c"], w0, np.empty(n), 0.0
            for i in range(n):
                inlet[i] = t
                w_s = ratio(sat(wall[i])) if wall[i] < point else math.inf
                if w > w_s:
                    water += dry * (w - w_s) * (1 - through)
                    w = w_s + (w - w_s) * through
                t = wall[i] + (t - wall[i]) * through
            return inlet, water

        def rhs(_, y):
            inlet, water = march(y[:n])
            heat = (inlet - y[:n]) * (1 - through) * dry * cp / (math.pi * d * dx)
            return np.append((heat - u * (y[:n] - around)) / (kg * c), water)

        clear = lambda _, y: y[n - 1] - point
        clear.direction, clear.terminal = 1, False
        start = np.append(np.full(n, float(around)), 0.0)
        run = solve_ivp(rhs, (0, minutes * 60), start, rtol=1e-7, atol=1e-9, events=clear)
        whole = 1 / (1 / h + 1 / u)
        steady = around + (air["t_c"] - around) * math.exp(-whole * math.pi * d * length / (dry * cp)) * whole / u
        hits = run.t_events[0]
        minutes_to = float(hits[0]) / 60 if len(hits) else None
        emit("wall equations integrated slice by slice (SciPy solve_ivp)",
             {"op": "exhaust_duct", "air": air, "around_c": around, "flow_m3_s": flow, "diameter_m": d, "length_m": length,
              "r_m2k_w": r, "wall_kg_m2": kg, "wall_c_j_kgk": c, "minutes": minutes},
             {"wall_c_end": steady, "minutes_to_clear": minutes_to, "condensate_ml": float(run.y[n, -1]) * 1000}, 0.006)


def drying():
    model = lambda day, k, m0, e: e + (m0 - e) * np.exp(-k * day)
    for readings, e, goal in [
        ([[0, 28.4], [1, 25.9], [2, 24.2], [4, 21.0], [7, 17.6], [9, 16.4]], 11, 15),
        ([[2, 31], [5, 26.5], [8, 22.1], [12, 19.2]], 9.5, 13),
        ([[0, 22.0], [3, 21.9], [6, 22.1], [9, 21.95]], 12, 15),
    ]:
        x, y = np.array(readings).T
        popt, pcov = curve_fit(lambda d, k, m0: model(d, k, m0, e), x, y, p0=[0.1, y[0]], xtol=1e-15, ftol=1e-15, gtol=1e-15)
        k, m0 = popt
        answer = {"k_per_day": k, "stalled": bool(k < 0.002), "day_of_goal": None, "day_low": None, "day_high": None}
        if k >= 0.002:
            day = math.log((m0 - e) / (goal - e)) / k
            slope = np.array([-day / k, 1 / (k * (m0 - e))])
            half = student.ppf(0.95, len(x) - 2) * math.sqrt(slope @ pcov @ slope)
            answer.update(day_of_goal=day, day_low=day - half, day_high=day + half)
        emit("SciPy curve_fit with its covariance, Student's t", {"op": "drying_fit", "readings": readings, "equilibrium_pct": e, "goal_pct": goal}, answer, 1e-4)


def calibrate():
    points = [[11.3, 14.0], [33.1, 34.6], [75.5, 73.9], [97.6, 95.1]]
    reference, read = np.array(points).T
    slope, offset = np.polyfit(read, reference, 1)
    emit("NumPy polyfit", {"op": "calibrate", "points": points},
         {"slope": slope, "offset": offset, "max_residual_pct": float(np.abs(slope * read + offset - reference).max())}, 1e-9)


def hours():
    """A winter month in an attic: a seeded walk of weather, gaps among it; PsychroLib's own dew point and volume."""
    rng = np.random.default_rng(14)
    n = 24 * 14
    outdoor = -6 + 7 * np.sin(np.arange(n) / 24 * 2 * np.pi) + np.cumsum(rng.normal(0, 0.25, n))
    outside = [[round(float(t), 2), round(float(h), 1)] for t, h in zip(outdoor, rng.uniform(55, 98, n))]
    inside = [[round(t + 9 + float(d), 2), round(float(h), 1)] for (t, _), d, h in
              zip(outside, rng.normal(0, 1, n), rng.uniform(45, 85, n))]
    f, step = 0.35, 1.5
    surface = [None if rng.random() < 0.02 else round(to + f * (t - to) + float(rng.normal(0, 1)), 2)
               for (t, _), (to, _) in zip(inside, outside)]
    for i in range(3, n, 37):
        inside[i] = None
    p_of = lambda pair: pair[1] / 100 * sat(pair[0])
    grams = lambda pair: 1000 * 0.018015268 / 8.31446261815324 * p_of(pair) / (pair[0] + 273.15)
    for by in ["surface_c", "f_rsi"]:
        wet, mold, known, spells, run, longest, worst, excess = 0, 0, 0, 0, 0, 0, None, []
        for i, (a, o, s) in enumerate(zip(inside, outside, surface)):
            if by == "f_rsi":
                s = None if a is None else o[0] + f * (a[0] - o[0])
            if a is None or s is None:
                run = 0
            else:
                known += 1
                margin = s - psy.GetTDewPointFromRelHum(a[0], a[1] / 100)
                is_wet = margin <= 0
                wet += is_wet
                mold += is_wet or p_of(a) / sat(s) >= 0.8
                spells += is_wet and run == 0
                run = run + 1 if is_wet else 0
                longest = max(longest, run)
                if worst is None or margin < worst[0]:
                    worst = (margin, i)
            if a is not None:
                excess.append((grams(a) - grams(o), p_of(a) - p_of(o)))
        request = {"op": "log_hours", "air": inside, "outside": outside, "step_h": step}
        request[by] = surface if by == "surface_c" else f
        mean = np.mean(excess, axis=0)
        emit("hour by hour with PsychroLib's dew point and saturation", request,
             {"hours": known * step, "gaps": (n - known) * step, "wet_hours": wet * step, "mold_hours": mold * step,
              "longest_wet_h": longest * step, "wet_spells": spells, "worst_margin_c": worst[0], "worst_at": worst[1],
              "excess_g_m3": mean[0], "excess_pa": mean[1]}, 2e-3)
    crawl, flow, coldest = {"t_c": 14, "rh_pct": 80}, 0.05, 11.0
    outside = [[round(11 + 6 * math.sin(i / 24 * 2 * math.pi) + float(rng.normal(0, 1)), 2), round(float(rng.uniform(50, 95)), 1)]
               for i in range(96)]
    w_in = ratio(pv(crawl))
    removal, runs = [], []
    for i, (t, h) in enumerate(outside):
        p_v = h / 100 * sat(t)
        removal.append(flow / volume(t, p_v) * (w_in - ratio(p_v)) * 3600)
        if removal[i] > 0 and psy.GetTDewPointFromRelHum(t, h / 100) <= coldest:
            if runs and runs[-1][1] == i:
                runs[-1][1] = i + 1
            else:
                runs.append([i, i + 1])
    per_run = [sum(removal[a:b]) for a, b in runs]
    emit("hour by hour with PsychroLib's humidity ratio, volume and dew point",
         {"op": "vent_hours", "inside": crawl, "outside": outside, "flow_m3_s": flow, "coldest_surface_c": coldest},
         {"removal_l": removal, "open": runs, "open_l": sum(per_run), "always_l": sum(removal),
          "best": runs[int(np.argmax(per_run))]}, 1e-4)


def thermal_grid():
    rng = np.random.default_rng(11)
    k = 273.15
    cases = [
        ((9, 14), {"t_c": 21, "rh_pct": 48}, {"outdoor_c": -4, "design_outdoor_c": -18}, {}, 14.5),
        ((12, 12), {"t_c": 20, "rh_pct": 55}, {"outdoor_c": 13}, {"emissivity": 0.94, "reflected_c": 19.0, "set_emissivity": 0.97}, 15.0),
        ((6, 20), {"t_c": 24, "rh_pct": 70}, {}, {"emissivity": 0.9}, 22.0),
        ((1, 5), {"t_c": 20, "rh_pct": 40}, {"outdoor_c": 17}, {}, 18.0),
    ]
    for shape, air, outdoor, radiation, base in cases:
        noise = ndimage.gaussian_filter(rng.normal(0, 1, shape), 1.2)
        cells = np.round(base + 3 * noise / noise.std(), 2)
        cells[rng.random(shape) < 0.07] = np.nan
        request = {"op": "thermal_grid", "grid_c": [[None if math.isnan(c) else float(c) for c in row] for row in cells],
                   "air": air, **outdoor, **radiation}
        if radiation:
            e, e0 = radiation.get("emissivity", 1), radiation.get("set_emissivity", 1)
            refl = radiation.get("reflected_c", air["t_c"])
            reached = e0 * (cells + k) ** 4 + (1 - e0) * (refl + k) ** 4
            cells = ((reached - (1 - e) * (refl + k) ** 4) / e) ** 0.25 - k
        t_dew, t_mold = dew(pv(air)), dew(pv(air) / 0.8)
        read = int(np.isfinite(cells).sum())
        spot = lambda i: {"row": int(i // shape[1]), "column": int(i % shape[1]), "t_c": cells.flat[i]}
        low, high = int(np.nanargmin(cells)), int(np.nanargmax(cells))
        labels, count = ndimage.label(cells <= t_mold)
        patches = []
        for n, (rows, columns) in enumerate(ndimage.find_objects(labels), 1):
            inside = labels == n
            patches.append((-int(inside.sum()), int(np.argmax(inside)),
                            {"cells": int(inside.sum()), "share": inside.sum() / read,
                             "coldest": spot(int(np.nanargmin(np.where(inside, cells, np.nan)))),
                             "rows": [rows.start, rows.stop - 1], "columns": [columns.start, columns.stop - 1]}))
        out = outdoor.get("outdoor_c")
        factor = None if out is None or abs(air["t_c"] - out) < 5 else (cells.flat[low] - out) / (air["t_c"] - out)
        design = outdoor.get("design_outdoor_c")
        wet_bulb = psy.GetTWetBulbFromRelHum(air["t_c"], air["rh_pct"] / 100, P)
        span = [] if out is None else [min(out, air["t_c"]) - 2, max(out, air["t_c"]) + 2]
        warnings = [name for name, holds in [
            ("no_outdoor", out is None),
            ("low_contrast", out is not None and abs(air["t_c"] - out) < 10),
            ("all_cells_alike", cells.flat[high] - cells.flat[low] < 0.3),
            ("not_evaporation", cells.flat[low] < wet_bulb - 0.5),
            ("outside_both", bool(span) and (cells.flat[low] < span[0] or cells.flat[high] > span[1])),
        ] if holds]
        emit("NumPy and scipy.ndimage.label, saturation and wet bulb from PsychroLib", request,
             {"rows": shape[0], "columns": shape[1], "missing": cells.size - read, "min_c": cells.flat[low],
              "mean_c": float(np.nanmean(cells)), "max_c": cells.flat[high], "dew_c": t_dew, "mold_c": t_mold,
              "share_wet": float((cells <= t_dew).sum() / read), "share_mold": float((cells <= t_mold).sum() / read),
              "coldest": spot(low), "warmest": spot(high), "patches": [p for _, _, p in sorted(patches, key=lambda p: p[:2])],
              "f_rsi_min": factor, "design_min_c": None if factor is None or design is None else design + factor * (air["t_c"] - design),
              "warnings": warnings}, 1e-6)


def drying_potential():
    out_t = [-6, -5, 1, 6, 12, 16, 18, 17, 13, 7, 1, -4]
    out_rh = [85, 83, 78, 72, 70, 70, 71, 74, 79, 83, 87, 88]
    for layers, indoor, wet in [(WALL, 50, 1), (WALL, 70, 2), (ROOF, 55, 3)]:
        months = [{"inside": {"t_c": 20, "rh_pct": indoor}, "outside": {"t_c": t, "rh_pct": h}, "days": 30.4}
                  for t, h in zip(out_t, out_rh)]
        r, s, total = grid(layers, 0.13, 0.04)
        said, year = [], 0.0
        for m in months:
            t, _ = climate(r, total, m["inside"], m["outside"])
            # Vapor through the layers one after another, as resistances in a row.
            at = sat(t[wet])
            inward = (at - pv(m["inside"])) * DELTA0 / s[wet] * DAY * 1000 * m["days"]
            outward = (at - pv(m["outside"])) * DELTA0 / (s[-1] - s[wet]) * DAY * 1000 * m["days"]
            said.append({"to_inside_g_m2": inward, "to_outside_g_m2": outward})
            year += max(inward + outward, 0)
        emit("resistances in a row, saturation from PsychroLib",
             {"op": "drying_potential", "layers": layers, "months": months, "wet_interface": wet},
             {"months": said, "year_g_m2": year}, 1e-6)


for make in [infrared, budget, assembly, assembly_year, mold, insulation, duct, drying, calibrate, hours, thermal_grid, drying_potential]:
    make()

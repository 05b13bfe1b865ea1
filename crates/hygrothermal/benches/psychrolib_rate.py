"""Calls per second of PsychroLib for dew point and full state: `scalar` (plain Python) or `vectorized` (Numba)."""

import sys
import time

kind = sys.argv[1]
if kind == "scalar":
    sys.modules["numba"] = None  # as on a machine without it
import numpy as np
import psychrolib as psy

psy.SetUnitSystem(psy.SI)
if kind == "vectorized" and not psy.has_numba:
    sys.exit("numba is missing")
count = 20_000 if kind == "scalar" else 200_000
i = np.arange(count)
t, rh = (i * 0.618034) % 1 * 35 + 1, ((i * 0.414214) % 1 * 89 + 10) / 100


def rate(call):
    call(t[:10], rh[:10])  # compile first
    best = min(timed(call) for _ in range(5))
    return count / best


def timed(call):
    start = time.perf_counter()
    call(t, rh)
    return time.perf_counter() - start


def dew(t, rh):
    if kind == "vectorized":
        return psy.GetTDewPointFromRelHum(t, rh)
    return [psy.GetTDewPointFromRelHum(a, b) for a, b in zip(t.tolist(), rh.tolist())]


def state(t, rh):
    if kind == "vectorized":
        # CalcPsychrometricsFromRelHum, whose parts are the vectorized functions.
        w = psy.GetHumRatioFromRelHum(t, rh, 101325.0)
        return (psy.GetTWetBulbFromHumRatio(t, w, 101325.0), psy.GetTDewPointFromHumRatio(t, w, 101325.0),
                psy.GetMoistAirEnthalpy(t, w), psy.GetMoistAirVolume(t, w, 101325.0))
    return [psy.CalcPsychrometricsFromRelHum(a, b, 101325.0) for a, b in zip(t.tolist(), rh.tolist())]


print(rate(dew), rate(state))

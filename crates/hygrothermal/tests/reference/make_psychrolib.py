"""Makes moist_air.csv: states of moist air from PsychroLib and CoolProp.

Run in an environment with PsychroLib 2.5.0 and CoolProp 8.0.0:  python make_psychrolib.py > moist_air.csv
Columns: t_c, rh_pct (over ice below 0 C, over water from 0 C), p_pa, then PsychroLib's dew_c, wet_c, vapor_pa,
ratio_kg_kg, enthalpy_kj_kg, density_kg_m3 and CoolProp's (real gas) dew_real_c, ratio_real_kg_kg (empty where it
gives none).
"""

import sys

import psychrolib as psy
from CoolProp.HumidAirProp import HAPropsSI

psy.SetUnitSystem(psy.SI)
print("t_c,rh_pct,p_pa,dew_c,wet_c,vapor_pa,ratio_kg_kg,enthalpy_kj_kg,density_kg_m3,dew_real_c,ratio_real_kg_kg")
for p in (101325.0, 84556.0):
    for t in (-35.0, -25.0, -12.5, -5.0, 1.0, 5.0, 13.0, 20.0, 21.1, 30.0, 38.0, 55.0):
        for rh in (8.0, 30.0, 50.0, 80.0, 95.0, 100.0):
            w, wet, dew, vapor, h, _v, _ = psy.CalcPsychrometricsFromRelHum(t, rh / 100, p)
            density = psy.GetMoistAirDensity(t, w, p)
            real = ["", ""]
            if t >= 5.0 and dew > 0.5:
                try:
                    args = ("T", t + 273.15, "P", p, "R", rh / 100)
                    real = [f"{HAPropsSI('D', *args) - 273.15:.6f}", f"{HAPropsSI('W', *args):.8f}"]
                except ValueError as error:
                    print(f"CoolProp gives none at {t} C {rh} %: {error}", file=sys.stderr)
            print(f"{t},{rh},{p},{dew:.6f},{wet:.6f},{vapor:.5f},{w:.9f},{h / 1000:.6f},{density:.6f},{real[0]},{real[1]}")

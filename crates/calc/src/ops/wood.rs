//! Wood: equilibrium moisture and drying.

use super::Answer;
use crate::input::Input;
use hygrothermal::drying;
use hygrothermal::quantity::{Days, MoistureContent, RelativeHumidity, Temperature};
use hygrothermal::wood;

/// Equilibrium moisture content.
pub fn emc(input: &Input) -> Answer {
    input.only(&["t_c", "rh_pct"])?;
    let t = input.required("t_c", Temperature::new)?;
    let rh = input.required("rh_pct", RelativeHumidity::new)?;
    let emc = wood::equilibrium_moisture(t, rh).map_err(|e| input.fault("t_c", e))?;
    Ok(fields!({ "emc_pct": emc }))
}

/// The drying curve through readings and the day it passes the goal.
pub fn drying_fit(input: &Input) -> Answer {
    input.only(&["readings", "equilibrium_pct", "equilibrium_err_pct", "goal_pct"])?;
    let readings = input.pairs("readings", Days::new, MoistureContent::new)?;
    let equilibrium = input.required("equilibrium_pct", MoistureContent::new)?;
    let goal = input.required("goal_pct", MoistureContent::new)?;
    let err = input.optional("equilibrium_err_pct", MoistureContent::new)?.map_or(0.0, MoistureContent::get);
    let fitted = drying::forecast(&readings, (equilibrium, err), goal);
    let (fit, passes) = fitted.map_err(|e| input.fault("readings", e))?;
    Ok(fields!({
        "k_per_day": fit.k,
        "day_of_goal": passes.map(|f| f.day),
        "day_low": passes.map(|f| f.low),
        "day_high": passes.map(|f| f.high),
        "stalled": fit.stalled(),
    }))
}

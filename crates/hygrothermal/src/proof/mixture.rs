//! A mixture of Student's t, and where its shares lie.

use statrs::distribution::{ContinuousCDF, StudentsT};

/// Student's t of one freedom, moved and stretched, with their weights.
pub struct Mixture {
    freedom: f64,
    /// Weight, middle and scale.
    parts: Vec<[f64; 3]>,
}

impl Mixture {
    /// Weights are made to add up to one.
    pub fn new(freedom: f64, mut parts: Vec<[f64; 3]>) -> Self {
        let whole: f64 = parts.iter().map(|p| p[0]).sum();
        for part in &mut parts {
            part[0] /= whole;
        }
        // What weighs nothing only costs time.
        parts.retain(|p| p[0] > 1e-9);
        Self { freedom, parts }
    }

    /// The value under which a share lies.
    pub fn quantile(&self, share: f64) -> f64 {
        let Ok(t) = StudentsT::new(0.0, 1.0, self.freedom) else { return f64::NAN };
        let each = t.inverse_cdf(share);
        // The share lies between the least and the highest of the parts' own.
        let own = |[_, at, scale]: &[f64; 3]| at + each * scale;
        let mut low = self.parts.iter().map(own).fold(f64::INFINITY, f64::min);
        let mut high = self.parts.iter().map(own).fold(f64::NEG_INFINITY, f64::max);
        let under = |x: f64| self.parts.iter().map(|[w, at, scale]| w * t.cdf((x - at) / scale)).sum::<f64>();
        let close = 1e-6 * (high - low);
        while high - low > close {
            let middle = f64::midpoint(low, high);
            if under(middle) < share {
                low = middle;
            } else {
                high = middle;
            }
        }
        f64::midpoint(low, high)
    }

    /// How many times its 97.5 % point Student's 80 % point is.
    pub fn power(&self) -> f64 {
        let Ok(t) = StudentsT::new(0.0, 1.0, self.freedom) else { return f64::NAN };
        t.inverse_cdf(0.8) / t.inverse_cdf(0.975)
    }
}

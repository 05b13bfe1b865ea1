//! Rows in the database's own binary format.

use super::add::Arrived;

/// What rows begin with.
const HEADER: &[u8] = b"PGCOPY\n\xff\r\n\0\0\0\0\0\0\0\0\0";
/// And end with.
const END: [u8; 2] = (-1_i16).to_be_bytes();
/// Microseconds from 1970 to 2000, where the database counts from.
const EPOCH_2000: i64 = 946_684_800_000_000;

/// Readings with their places in the order they arrived in.
pub(super) fn binary(arrived: &[Arrived]) -> Vec<u8> {
    let mut out = Vec::with_capacity(arrived.len() * 82 + 32);
    out.extend(HEADER);
    for Arrived { n, series, point, .. } in arrived {
        out.extend(6_i16.to_be_bytes());
        out.extend(4_i32.to_be_bytes());
        out.extend(n.to_be_bytes());
        out.extend(16_i32.to_be_bytes());
        out.extend(series.as_bytes());
        out.extend(8_i32.to_be_bytes());
        out.extend((point.at.timestamp_micros() - EPOCH_2000).to_be_bytes());
        for x in [point.t_c, point.rh_pct, point.value] {
            match x {
                Some(x) => {
                    out.extend(8_i32.to_be_bytes());
                    out.extend(x.to_be_bytes());
                }
                None => out.extend((-1_i32).to_be_bytes()),
            }
        }
    }
    out.extend(END);
    out
}

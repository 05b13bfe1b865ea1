//! Closed lists: each entry with the id used in storage and exchange, and its plain words.

/// Makes an enum of a closed list.
#[macro_export]
macro_rules! kinds {
    ($($(#[$doc:meta])* $name:ident { $($(#[$vdoc:meta])* $variant:ident = $id:literal, $words:literal;)* })*) => {$(
        $(#[$doc])*
        #[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, ::serde::Serialize, ::serde::Deserialize)]
        pub enum $name {
            $($(#[$vdoc])* #[serde(rename = $id)] $variant,)*
        }

        impl $name {
            /// Every kind, in the order offered.
            pub const ALL: &'static [Self] = &[$(Self::$variant),*];

            /// The id used in storage and exchange.
            #[must_use]
            pub const fn id(self) -> &'static str {
                match self { $(Self::$variant => $id,)* }
            }

            /// Plain words.
            #[must_use]
            pub const fn words(self) -> &'static str {
                match self { $(Self::$variant => $words,)* }
            }

            /// The kind with this id.
            #[must_use]
            pub fn from_id(id: &str) -> Option<Self> {
                Self::ALL.iter().copied().find(|k| k.id() == id)
            }
        }
    )*};
}

pub use kinds;

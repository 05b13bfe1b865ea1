//! Closed lists: what a structure, space, face or material can be, each with its id and its plain words.

use crate::closed::kinds;

kinds! {
    /// What kind of structure a job is about.
    Structure {
        /// House over a vented crawl space.
        CrawlVented = "crawl_vented", "Crawl-space house with attic";
        /// House over a covered, closed crawl space.
        CrawlSealed = "crawl_sealed", "Sealed-crawl house with attic";
        /// House over a basement.
        Basement = "basement", "Basement house with attic";
        /// House on a concrete slab.
        Slab = "slab", "Slab cottage";
        /// Cabin on blocks with skirting.
        CabinSkirted = "cabin_skirted", "Cabin on blocks with skirting";
        /// A roof void and the rooms below it.
        Attic = "attic", "Attic";
        /// Garage or workshop.
        Garage = "garage", "Garage or workshop";
        /// Bus, van or trailer.
        Vehicle = "vehicle", "Vehicle";
        /// Boat with a cabin and a bilge.
        Boat = "boat", "Boat cabin";
        /// Round felt-and-canvas dwelling.
        RoundTent = "round_tent", "Round felt dwelling";
        /// One room behind an outside wall.
        HouseWall = "house_wall", "House wall";
        /// Anything else: begins as one room.
        Custom = "custom", "Custom";
    }
    /// Climate of the place.
    Climate {
        /// Long winters.
        Cold = "cold", "Cold";
        /// Warm summers and cold winters.
        Mixed = "mixed", "Mixed";
        /// Mild and wet.
        Marine = "marine", "Marine";
        /// Hot and humid.
        HotHumid = "hot_humid", "Hot and humid";
        /// Hot and dry.
        HotDry = "hot_dry", "Hot and dry";
    }
    /// What kind of space this is.
    SpaceKind {
        /// Lived-in room.
        Room = "room", "room";
        /// Roof void.
        Attic = "attic", "attic";
        /// Crawl space over ground.
        Crawl = "crawl", "crawl space";
        /// Below grade.
        Basement = "basement", "basement";
        /// Gap under a raised floor.
        UnderFloor = "under_floor", "under-floor gap";
        /// Lived-in part of a vehicle.
        VehicleCabin = "vehicle_cabin", "vehicle cabin";
        /// Storage with a door or flap.
        Locker = "locker", "locker";
        /// Unheated, with a big door.
        Garage = "garage", "garage";
        /// Lived-in part of a boat.
        BoatCabin = "boat_cabin", "boat cabin";
        /// Lowest part of a hull.
        Bilge = "bilge", "bilge";
        /// Room of felt and canvas.
        Tent = "tent", "felt dwelling";
    }
    /// Row of the drawn cut.
    Level {
        /// Under the roof.
        Roof = "roof", "roof";
        /// A second floor.
        Upper = "upper", "upper floor";
        /// Where people are.
        Living = "living", "living";
        /// Below the floor.
        Under = "under", "under";
    }
    /// A face of a space. The cut looks east: north is on the left.
    Face {
        /// Left in the cut.
        North = "north", "north";
        /// Right in the cut.
        South = "south", "south";
        /// Behind the cut.
        East = "east", "east";
        /// Before the cut.
        West = "west", "west";
        /// Below.
        Floor = "floor", "floor";
        /// Above.
        Ceiling = "ceiling", "ceiling";
    }
    /// Outline of the drawing.
    Shell {
        /// Gable roof, ground at the walls.
        House = "house", "house";
        /// Box on wheels.
        Vehicle = "vehicle", "vehicle";
        /// Gable roof, floor off the ground.
        Cabin = "cabin", "cabin";
        /// Hull in the water.
        Boat = "boat", "boat";
        /// Low wall under a crowned roof.
        Tent = "tent", "tent";
    }
    /// What a surface is made of.
    Material {
        /// Lumber or wood panel.
        Wood = "wood", "wood";
        /// Plasterboard, painted or papered.
        Plasterboard = "plasterboard", "drywall";
        /// Concrete or block.
        Concrete = "concrete", "concrete";
        /// Window glass.
        Glass = "glass", "glass";
        /// Bare or painted metal.
        Metal = "metal", "metal";
        /// Bonded panel of a vehicle.
        Panel = "panel", "panel";
        /// Brick or stone.
        Masonry = "masonry", "brick or stone";
        /// Felt, canvas, a film or a membrane.
        Fabric = "fabric", "felt, canvas or film";
        /// Fiberglass laminate of a hull.
        Laminate = "laminate", "fiberglass laminate";
        /// Insulation, seen or uncovered.
        Insulation = "insulation", "insulation";
        /// Bare ground.
        Soil = "soil", "soil";
    }
}

impl Structure {
    /// Outline in which its section is drawn.
    #[must_use]
    pub const fn shell(self) -> Shell {
        match self {
            Self::CabinSkirted => Shell::Cabin,
            Self::Vehicle => Shell::Vehicle,
            Self::Boat => Shell::Boat,
            Self::RoundTent => Shell::Tent,
            _ => Shell::House,
        }
    }

    /// The kind of building that one of its spaces is judged as: a roof void is an attic, whatever it stands on.
    #[must_use]
    pub const fn around(self, space: SpaceKind) -> Self {
        match space {
            SpaceKind::Attic => Self::Attic,
            _ => self,
        }
    }
}

impl SpaceKind {
    /// Air changes per hour assumed with openings shut, and with them open (common practice; rough, and shown as an
    /// assumption wherever they are used).
    #[must_use]
    pub const fn air_changes(self) -> AirChanges {
        let (closed, open) = match self {
            Self::Room => (0.3, 3.0),
            Self::Attic => (1.0, 5.0),
            Self::Crawl => (0.5, 3.0),
            Self::Basement => (0.2, 2.0),
            Self::UnderFloor => (1.0, 5.0),
            Self::VehicleCabin => (0.5, 8.0),
            Self::Locker => (0.3, 4.0),
            Self::Garage => (1.0, 6.0),
            Self::BoatCabin => (0.5, 6.0),
            Self::Bilge => (0.3, 2.0),
            Self::Tent => (1.0, 6.0),
        };
        AirChanges { closed, open }
    }

    /// Whether people keep it warm, so that today's indoor temperature says something about the design night's.
    #[must_use]
    pub const fn kept_warm(self) -> bool {
        matches!(self, Self::Room | Self::VehicleCabin | Self::Basement | Self::BoatCabin | Self::Tent)
    }

    /// Whether a dehumidifier in this space can make sense: an attic is open to the weather.
    #[must_use]
    pub const fn can_be_closed(self) -> bool {
        !matches!(self, Self::Attic | Self::UnderFloor)
    }
}

/// Air changes per hour of a space.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct AirChanges {
    /// With openings shut.
    pub closed: f64,
    /// With openings open.
    pub open: f64,
}

impl Face {
    /// Whether it stands upright.
    #[must_use]
    pub const fn upright(self) -> bool {
        !matches!(self, Self::Floor | Self::Ceiling)
    }

    /// The same boundary seen from its other side.
    #[must_use]
    pub const fn opposite(self) -> Self {
        match self {
            Self::North => Self::South,
            Self::South => Self::North,
            Self::East => Self::West,
            Self::West => Self::East,
            Self::Floor => Self::Ceiling,
            Self::Ceiling => Self::Floor,
        }
    }
}

kinds! {
    /// What a reading says.
    ReadingKind {
        /// Air of a space or outdoors.
        Air = "air", "air";
        /// Temperature of a surface.
        Surface = "surface", "surface temperature";
        /// Wood moisture by pins.
        Wood = "wood", "wood moisture";
        /// A meter’s own scale.
        Relative = "relative", "relative scale";
        /// Water a dehumidifier collected.
        Water = "water", "water collected";
        /// Air moved.
        Airflow = "airflow", "airflow";
        /// Rain of the two days before.
        Rain = "rain", "rain";
        /// Only words.
        Note = "note", "note";
        /// The reading it replaces was a mistake and nothing takes its place.
        Withdrawn = "withdrawn", "withdrawn";
    }
    /// What an instrument is.
    InstrumentKind {
        /// Air temperature and humidity in the hand.
        Hygrometer = "hygrometer", "Thermo-hygrometer";
        /// Left in place; reads by itself.
        Logger = "logger", "Logger";
        /// Surface temperature from afar.
        Infrared = "infrared", "Infrared thermometer";
        /// Surface temperature by touch.
        Contact = "contact", "Contact thermometer";
        /// Wood moisture or a relative scale.
        Moisture = "moisture", "Moisture meter";
        /// Air moved.
        Airflow = "airflow", "Airflow meter";
    }
}

kinds! {
    /// What a sensor of a logger reads. Air without a space, and rain, are of outdoors.
    SensorKind {
        /// Temperature and humidity of air.
        Air = "air", "air";
        /// Temperature of a surface.
        Surface = "surface", "surface temperature";
        /// Wood moisture content, %.
        Wood = "wood", "wood moisture";
        /// A meter's own scale.
        Relative = "relative", "relative scale";
        /// Air pressure, Pa.
        Pressure = "pressure", "air pressure";
        /// Rain, mm.
        Rain = "rain", "rain";
        /// Water collected, L.
        Water = "water", "water collected";
        /// Electric power, W.
        Power = "power", "electric power";
    }
    /// What a log is watched for.
    AlertKind {
        /// A surface under the dew point for hours.
        Wet = "wet", "surface under the dew point";
        /// Relative humidity over a ceiling for hours.
        Humid = "humid", "humidity over a ceiling";
        /// Air or a pipe near freezing.
        Freezing = "freezing", "near freezing";
        /// A logger that writes nothing.
        Silent = "silent", "silent logger";
        /// A logger that shows the same over and over.
        Stuck = "stuck", "stuck logger";
    }
    /// What somebody marked in a log.
    MarkKind {
        /// Something that happened.
        Event = "event", "event";
        /// Words on a moment.
        Note = "note", "note";
        /// Readings not to be counted.
        LeftOut = "left_out", "left out";
    }
}

impl InstrumentKind {
    /// Whether a salt check says anything about it.
    #[must_use]
    pub const fn reads_humidity(self) -> bool {
        matches!(self, Self::Hygrometer | Self::Logger)
    }

    /// Whether it is checked on a block of known resistance.
    #[must_use]
    pub const fn has_block(self) -> bool {
        matches!(self, Self::Moisture)
    }
}

impl ReadingKind {
    /// Whether it stands beside a station’s own figure rather than being it.
    #[must_use]
    pub const fn is_aside(self) -> bool {
        matches!(self, Self::Water | Self::Airflow | Self::Rain | Self::Note)
    }
}

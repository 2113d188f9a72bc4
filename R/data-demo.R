# The tables that come with the package. All are simulated by the scripts in data-raw/.

demo_tables <- list(
  water_samples = list(
    shows = "columns in very different units, elongated groups of unequal size, missing cells",
    truth = "water_mass", id = "sample", aside = c("station", "date", "longitude", "latitude", "depth"),
    units = c(temperature = "\u00b0C", salinity = "g/kg", density = "kg/m\u00b3", oxygen = "ml/l", turbidity = "NTU",
              sound_speed = "m/s", depth = "m", longitude = "\u00b0E", latitude = "\u00b0N")
  ),
  icequakes = list(
    shows = "overlapping, heavy-tailed, very unequal groups; columns that want logarithms",
    truth = "source", id = "event", aside = c("time", "distance"),
    units = c(duration = "s", rise_time = "s", dominant_frequency = "Hz", energy = "J", distance = "km")
  ),
  seal_haulouts = list(
    shows = "curved groups along shores, of different density, with scattered strays",
    truth = "shore", noise = "stray", id = "sighting", aside = c("date", "longitude", "latitude", "adults", "pups"),
    units = c(east = "km", north = "km", longitude = "\u00b0E", latitude = "\u00b0N")
  ),
  mooring_casts = list(
    shows = "32 columns in order: groups differ in the shape of the profile, not in its level",
    truth = "regime", id = "cast", aside = c("date", "season"),
    units = stats::setNames(rep("g/kg", 32L), sprintf("salinity_%03d", round(seq(1, 125, length.out = 32L))))
  ),
  vessel_visits = list(
    shows = "numbers, yes-or-no columns and categories together; no known classes",
    truth = NULL, id = "visit", aside = c("arrival", "overstay"),
    features = c("length", "draught", "crew", "hours", "tonnes", "pilot", "reefer", "night", "cargo", "berth",
                 "condition"),
    types = list(condition = c("good", "fair", "poor")),
    units = c(length = "m", draught = "m", hours = "h", tonnes = "t", overstay = "h")
  ),
  trawl_catches = list(
    shows = "whole, skewed counts: groups that are no ellipses, described by more components than there are groups",
    truth = "bottom", id = "haul", aside = c("date", "depth"), units = c(depth = "m")
  ),
  still_water = list(
    shows = "correlated columns and no groups at all",
    truth = NULL, id = "reading", aside = "day",
    units = c(temperature = "\u00b0C", salinity = "g/kg", oxygen = "ml/l", chlorophyll = "\u00b5g/l",
              current_speed = "cm/s")
  )
)

#' Demo tables
#'
#' Made-up tables of a fjord and its monitoring station, simulated with fixed seeds. Positions lie in the open ocean;
#' the speed of sound follows the leading terms of Mackenzie (1981).
#'
#' * `water_samples`: 612 water samples, six physical columns; truth: five water masses.
#' * `icequakes`: 408 seismic events of a calving glacier, four numeric columns (distance is kept aside); truth:
#'   four kinds of source.
#' * `seal_haulouts`: 900 positions of seals along fjord arms and skerries; truth: six shores, and strays (noise).
#' * `mooring_casts`: 300 casts of salinity at 32 depths; truth: four mixing regimes; aside: season.
#' * `vessel_visits`: 2,020 calls at a harbour, in numbers, yes-or-no columns and categories (one ordered); aside: hours
#'   of overstay; no truth.
#' * `trawl_catches`: 416 hauls of a catch survey, counts of eight kinds of animals; truth: four kinds of bottom; aside:
#'   date and depth.
#' * `still_water`: 500 readings with correlated columns and no groups at all.
#'
#' @param name Name of the table.
#' @references Mackenzie, K. V. (1981). Nine-term equation for sound speed in the oceans. \doi{10.1121/1.386920}
#' @return `fl_demo()`: an object of class `fl_data` with its roles set. `fl_demos()`: a data frame with a row a
#'   table (`name`, `rows`, `features`, `truth`, `shows`, and `file`, the CSV it is read from).
#' @section Errors: `fjordline_error_argument` for an unknown name.
#' @examples
#' fl_demos()
#' fl_demo("water_samples")
#' @export
fl_demo <- function(name) {
  check_choice(name, names(demo_tables), "name")
  roles <- demo_tables[[name]]
  data <- fl_data(demo_file(name), truth = roles$truth, id = roles$id, aside = roles$aside, features = roles$features,
                  types = roles$types, units = roles$units)
  data$call <- code_call("fl_demo", name)
  data
}

demo_file <- function(name) system.file("extdata", paste0(name, ".csv"), package = "fjordline", mustWork = TRUE)

#' @rdname fl_demo
#' @export
fl_demos <- function() {
  tables <- lapply(names(demo_tables), fl_demo)
  tibble::tibble(
    name = names(demo_tables),
    rows = vapply(tables, function(d) nrow(d$table), 0L),
    features = vapply(tables, function(d) length(columns_of(d, "feature")), 0L),
    truth = vapply(demo_tables, function(d) d$truth %||% "", "", USE.NAMES = FALSE),
    shows = vapply(demo_tables, `[[`, "", "shows", USE.NAMES = FALSE),
    file = vapply(names(demo_tables), demo_file, "", USE.NAMES = FALSE)
  )
}

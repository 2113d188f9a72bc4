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
  still_water = list(
    shows = "correlated columns and no groups at all",
    truth = NULL, id = "reading", aside = "day",
    units = c(temperature = "\u00b0C", salinity = "g/kg", oxygen = "ml/l", chlorophyll = "\u00b5g/l",
              current_speed = "cm/s")
  )
)

#' Demo tables
#'
#' Made-up tables of a fjord and its monitoring station, simulated with fixed seeds.
#'
#' * `water_samples`: 612 water samples, six physical columns; truth: five water masses.
#' * `icequakes`: 408 seismic events of a calving glacier, four numeric columns (distance is kept aside); truth:
#'   four kinds of source.
#' * `still_water`: 500 readings with correlated columns and no groups at all.
#'
#' @param name Name of the table.
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
  data <- fl_data(demo_file(name), truth = roles$truth, id = roles$id, aside = roles$aside, units = roles$units)
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

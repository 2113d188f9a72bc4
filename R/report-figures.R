# The figures of a report: which there are, what they show, and where they are drawn. They are drawn before the template
# puts them in their places.

# One figure where there is one: `plot` is looked at only then.
figure_if <- function(there, alt, plot) if (isTRUE(there)) list(alt = alt, plot = function() plot)

report_figures <- function(parts) {
  groups <- parts$partition
  several <- !is.null(groups) && groups$k > 1L
  own <- parts$own
  of_own <- function(i) figure_if(length(own) >= i, unname(own[i]), autoplot(groups, names(own)[i]))
  has <- function(part) !is.null(part)
  Filter(Negate(is.null), list(
    drift = figure_if(has(parts$placed$drift), "What has drifted since the fit", autoplot(parts$placed)),
    plane = figure_if(has(groups), "The rows in the plane, coloured by group", autoplot(groups)),
    own1 = of_own(1L), own2 = of_own(2L),
    columns = figure_if(has(groups), "The groups column by column", autoplot(parts$profile)),
    separation = figure_if(several, "How strongly each column differs between groups",
                           autoplot(parts$profile, "separation")),
    time = figure_if(has(parts$outcome), "The share of each group over time", autoplot(parts$outcome)),
    gate = figure_if(has(parts$structure) && !is.na(parts$structure$groups),
                     "The rows along the direction in which they look most like several clusters",
                     autoplot(parts$structure)),
    ballots = figure_if(has(parts$why), "Who voted for which count", parts$why$vote),
    curves = figure_if(has(parts$why), "Index values over the counts", parts$why$curves),
    models = figure_if(has(parts$why$models), "BIC of every covariance structure over the counts", parts$why$models),
    gap = figure_if(has(parts$why$gap), "The gap and its rule", parts$why$gap),
    methods = figure_if(has(parts$why$methods), "Index values over the counts, by method", parts$why$methods),
    flows = figure_if(has(parts$lineage), "How groups split from count to count", autoplot(parts$lineage)),
    returns = figure_if(has(parts$reliability), "How stable groups and rows are under resampling",
                        autoplot(parts$reliability)),
    silhouettes = figure_if(parts$silhouettes, "Silhouette width of every row", autoplot(groups, view = "silhouette")),
    cross = figure_if(has(parts$agreement), "Groups against known classes", autoplot(parts$agreement)),
    mismatches = figure_if(has(parts$agreement) && several && nrow(parts$mismatches$rows) > 0L,
                           "How far the rows that disagree are from a border", autoplot(parts$mismatches))
  ))
}

study_figures <- function(parts) {
  standings <- parts$standings
  record <- parts$record
  Filter(Negate(is.null), list(
    scores = figure_if(!is.null(standings), "Methods by tables, the best of each table outlined", autoplot(standings)),
    ranks = figure_if(parts$ranked, "Mean ranks, joined where they do not differ beyond chance",
                      autoplot(standings, "ranks")),
    time = figure_if(!is.null(standings), "Seconds of a fit against the rows of its table",
                     autoplot(standings, "time")),
    stability = figure_if(parts$repeated, "How similar the repeats of a fit are",
                          autoplot(standings, view = "stability")),
    found = figure_if(!is.null(record), "How often each index and vote found the known count", autoplot(record)),
    relation = figure_if(!is.null(record$relation), "Rank correlation of index values and agreement, by table",
                         autoplot(record, "relation")),
    index = figure_if(!is.null(record$relation), "Index value against agreement, one point per fit",
                      autoplot(record, "index")),
    survival = figure_if(length(parts$maps) > 0L, "Which groups of the first table are found again under which choice",
                         autoplot(parts$maps[[1L]]))
  ))
}

# Draws them into `folder`: the same list, with `file`, as it is called there.
drawn_figures <- function(figures, folder) {
  dir.create(folder)
  files <- file.path(folder, paste0(names(figures), ".png"))
  save_figures(lapply(figures, function(figure) figure$plot()), files, pixels = 1.5)
  Map(function(figure, file) list(alt = figure$alt, file = basename(file)), figures, files)
}

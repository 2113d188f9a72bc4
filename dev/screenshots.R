# Draws the pictures in docs/screenshots from the demo data. The report is photographed where Chromium is installed; the
# terminal pictures are taken by hand.
library(fjordline)
save <- getFromNamespace("save_figure", "fjordline")
folder <- "docs/screenshots"

water <- fl_prepare(fl_demo("water_samples"), transform = c(turbidity = "log"))
vote <- fl_vote(fl_sweep(water))
groups <- fl_take(vote)
groups <- fl_name(groups, fl_agree(groups))
save(autoplot(vote$sweep, vote = vote), file.path(folder, "curves.png"))
save(autoplot(vote), file.path(folder, "vote.png"))
save(autoplot(groups), file.path(folder, "groups.png"))
save(autoplot(fl_profile(groups)), file.path(folder, "profile.png"))
save(autoplot(vote$sweep, "models", vote), file.path(folder, "models.png"))
save(autoplot(vote$structure), file.path(folder, "structure.png"))
save(autoplot(fl_reliability(groups)), file.path(folder, "reliability.png"))

save(autoplot(fl_lineage(vote, k = 1:8, names = groups)), file.path(folder, "lineage.png"))
save(autoplot(fl_paths(groups)), file.path(folder, "paths.png"))
next_month <- head(as.data.frame(fl_demo("water_samples")), 80)
next_month$temperature <- next_month$temperature + 2
next_month$salinity[5] <- 60
save(autoplot(fl_place(groups, next_month)), file.path(folder, "placed.png"))

samples <- fl_demo("water_samples")
of_two <- c("diagonal/volume+shape", "general/volume+shape+orientation")
study <- fl_study(c("water_samples", "icequakes", "seal_haulouts", "mooring_casts"),
                  list("kmeans", mixture = fl_method("mixture", covariance = of_two, tails = "normal"),
                       linkage = list(join = c("ward", "average")), "hdbscan"),
                  k = 2:8, indices = "fast", repeats = 2, seed = 7319, name = "fjord-types")
result <- fl_run(study)
save(autoplot(fl_standings(result)), file.path(folder, "standings.png"))
ready <- list(plain = fl_prepare(samples), logged = fl_prepare(samples, transform = c(turbidity = "log")),
              robust = fl_prepare(samples, scale = "median_iqr"))
several <- fl_sweep(ready, c("kmeans", "linkage", "mixture"), k = 3:6, indices = "fast")
save(autoplot(fl_choices(several, k = 4:6)), file.path(folder, "choices.png"))

browser <- Sys.which(c("chromium", "chromium-browser", "google-chrome"))
browser <- browser[nzchar(browser)]
photograph <- function(page, picture) {
  system2(browser[1L], c("--headless", "--no-sandbox", "--disable-gpu", "--hide-scrollbars", "--window-size=1280,800",
                         paste0("--user-data-dir=", tempfile("profile")), "--virtual-time-budget=8000",
                         paste0("--screenshot=", normalizePath(folder), "/", picture), paste0("file://", page)),
          stdout = FALSE, stderr = FALSE)
}
if (length(browser) > 0L) {
  photograph(fl_report(groups, tempfile(fileext = ".html")), "report.png")
  photograph(fl_report(result, tempfile(fileext = ".html")), "study-report.png")
}

# The explorer, as its tests drive it.
if (length(browser) > 0L && requireNamespace("shiny", quietly = TRUE)) {
  library(testthat)
  `%||%` <- rlang::`%||%`
  for (helper in c("helper-browser.R", "helper-explorer.R")) source(file.path("tests/testthat", helper))
  local({
    page <- local_browser()
    browser_open(page, local_explorer(vote))
    browser_until(page, "window.Shiny && Shiny.shinyapp && Shiny.shinyapp.isConnected()")
    go_to(page, "Groups")
    browser_until(page, "document.querySelector('#view').view")
    named <- jsonlite::toJSON(as.list(stats::setNames(groups$names, seq_along(groups$names) - 1L)), auto_unbox = TRUE)
    naming <- "(function (v) { v.names = %s; v.change({ group: 4 }); v.tell(['names']); })(%s)"
    browser_value(page, sprintf(naming, named, "document.querySelector('#view').view"))
    browser_click_on(page, "[role=tab]", "Known classes")
    Sys.sleep(1)
    browser_picture(page, file.path(folder, "explorer.png"))
    go_to(page, "Compare")
    browser_value(page, "document.querySelector('#first').selectize.setValue('fit mixture 5')")
    browser_value(page, "document.querySelector('#second').selectize.setValue('fit kmeans 5')")
    browser_click_on(page, "#compare")
    browser_until(page, "document.querySelector('#pair').view")
    browser_click_on(page, "#pair button", "Select them")
    Sys.sleep(1)
    browser_picture(page, file.path(folder, "explorer-compare.png"))
  })
}

# Draws the pictures in docs/screenshots from the demo data. The report is photographed where Chromium is installed; the
# terminal pictures are taken by hand.
library(fjordline)
save <- getFromNamespace("save_figure", "fjordline")
folder <- "docs/screenshots"

water <- fl_prepare(fl_demo("water_samples"), transform = c(turbidity = "log"))
vote <- fl_vote(fl_sweep(water, "kmeans", k = 1:10))
groups <- fl_take(fl_settle(vote, k = 5, reason = "five kinds of water are known"))
save(autoplot(vote$sweep, vote = vote), file.path(folder, "curves.png"))
save(autoplot(vote), file.path(folder, "vote.png"))
save(autoplot(vote$sweep, "gap", vote), file.path(folder, "gap.png"))
save(autoplot(groups), file.path(folder, "groups.png"))
save(autoplot(fl_profile(groups)), file.path(folder, "profile.png"))
save(autoplot(groups, view = "silhouette"), file.path(folder, "silhouettes.png"))
save(autoplot(vote$structure), file.path(folder, "structure.png"))
save(autoplot(fl_reliability(groups)), file.path(folder, "reliability.png"))
save(autoplot(fl_agree(groups)), file.path(folder, "agreement.png"))

samples <- fl_demo("water_samples")
save(autoplot(fl_demo("vessel_visits")), file.path(folder, "look-columns.png"))
save(autoplot(samples, view = "pairs"), file.path(folder, "look-pairs.png"))
save(autoplot(samples, view = "pull"), file.path(folder, "look-pull.png"))
save(autoplot(fl_demo("mooring_casts"), view = "profiles"), file.path(folder, "look-profiles.png"))
save(autoplot(fl_demo("seal_haulouts"), view = "map", columns = c("longitude", "latitude"), amount = "adults"),
     file.path(folder, "look-map.png"))
save(autoplot(fl_outliers(fl_prepare(fl_demo("icequakes"), transform = "log"), "density_ratio")),
     file.path(folder, "outliers.png"))

browser <- Sys.which(c("chromium", "chromium-browser", "google-chrome"))
browser <- browser[nzchar(browser)]
if (length(browser) > 0L) {
  report <- tempfile(fileext = ".html")
  fl_report(groups, report)
  system2(browser[1L], c("--headless", "--no-sandbox", "--disable-gpu", "--hide-scrollbars", "--window-size=1280,800",
                         paste0("--user-data-dir=", tempfile("profile")), "--virtual-time-budget=8000",
                         paste0("--screenshot=", normalizePath(folder), "/report.png"), paste0("file://", report)),
          stdout = FALSE, stderr = FALSE)
}

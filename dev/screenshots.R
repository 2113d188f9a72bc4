# Draws the pictures in docs/screenshots from the demo data. The report is photographed where Chromium is installed; the
# two terminal pictures are taken by hand.
library(fjordline)
save <- getFromNamespace("save_figure", "fjordline")
folder <- "docs/screenshots"

water <- fl_prepare(fl_demo("water_samples"), transform = c(turbidity = "log"))
vote <- fl_vote(fl_sweep(water, "kmeans", k = 1:10))
groups <- fl_take(vote)
save(autoplot(vote$sweep, vote), file.path(folder, "curves.png"))
save(autoplot(vote), file.path(folder, "vote.png"))
save(autoplot(groups), file.path(folder, "groups.png"))
save(autoplot(groups, columns = c("temperature", "salinity")), file.path(folder, "columns.png"))
save(autoplot(groups, view = "silhouette"), file.path(folder, "silhouettes.png"))
save(autoplot(fl_agree(groups)), file.path(folder, "agreement.png"))

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

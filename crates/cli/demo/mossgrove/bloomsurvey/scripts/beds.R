read_beds <- function(path) {
  read.csv(path, stringsAsFactors = FALSE)
}

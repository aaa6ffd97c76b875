# The share of plants that flower, in percent.
share_blooms <- function(beds) {
  count <- count_blooms(beds)
  round(100 * sum(count$x) / sum(beds$plants), 1)
}

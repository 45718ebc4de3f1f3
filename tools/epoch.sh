# Read by scripts that make archives: times in them are those of the commit, so that the same tree
# gives the same bytes.
SOURCE_DATE_EPOCH=$(git log -1 --format=%ct 2>/dev/null || echo 1700000000)
export SOURCE_DATE_EPOCH

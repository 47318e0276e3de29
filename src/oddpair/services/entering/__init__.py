"""Search, then create: records that people enter here, checked against what is there before they are saved."""

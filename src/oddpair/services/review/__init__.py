"""The review desk: what waits, records face to face, decisions about pairs and clusters, people at the desk."""

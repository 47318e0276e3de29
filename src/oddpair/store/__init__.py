"""Tables, migrations and queries; one module per aggregate; bulk transfer by COPY."""

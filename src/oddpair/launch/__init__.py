"""Starting and stopping everything on one machine: private PostgreSQL, migrations, web server and worker."""

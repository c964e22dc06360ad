"""How the program is put together: settings, addresses, the server entry."""

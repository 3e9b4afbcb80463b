"""The window round the views: menus, keys, start page, what is remembered."""

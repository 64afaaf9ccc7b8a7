"""Problems with a site's fonts: findings about rules, files, use and the server, most harmful first.

Each kind of finding has a module that is listed in `site_check`; what they look at is gathered once (`gathering`).
"""

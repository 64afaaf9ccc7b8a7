"""What is wrong with the fonts of a site: findings about rules, files, use and the server, the most harmful first.

Each kind of finding has a module that is listed in `site_check`; what they look at is gathered once (`gathering`).
"""

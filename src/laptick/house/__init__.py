"""Reaching the application from another device of the house: certificates of the studio's own, and the page that
installs them. Stands above api, beside run; knows no use case."""

"""What every score format shares on its way in: parts and their hands, lines, notices, bounds."""

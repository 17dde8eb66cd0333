"""The dossier: what there is to say of a design, on paper."""

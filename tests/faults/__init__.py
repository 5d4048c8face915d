"""The application under faults and hostile input; ``scripts/faults`` runs all of it, longer."""

"""Commands on accounts: add, list, remove."""

import sys
from typing import Annotated

import typer

from idle_shimmer.cli.problems import plain_errors

user = typer.Typer(no_args_is_help=True, help="Accounts of those who may sign in.")
_Name = Annotated[str, typer.Argument(help="The name to sign in with.")]


@user.command()
def add(name: _Name) -> None:
    """Add an account; its password is asked for, or read from standard input."""
    with plain_errors():
        from idle_shimmer.store.accounts.accounts import add_account
        from idle_shimmer.store.database import session_scope

        with session_scope() as session:
            add_account(session, name, _password())
    print(f"Added {name}.")


@user.command(name="list")
def list_accounts() -> None:
    """List the accounts."""
    with plain_errors():
        from idle_shimmer.store.accounts.accounts import all_accounts
        from idle_shimmer.store.database import session_scope

        with session_scope() as session:
            for account in all_accounts(session):
                print(f"{account.name:30} added {account.created_at:%Y-%m-%d}")


@user.command()
def remove(name: _Name) -> None:
    """Remove an account, which signs it out everywhere; what it made stays."""
    with plain_errors():
        from idle_shimmer.store.accounts.accounts import remove_account
        from idle_shimmer.store.database import session_scope

        with session_scope() as session:
            remove_account(session, name)
    print(f"Removed {name}.")


def _password() -> str:
    if sys.stdin.isatty():
        return str(typer.prompt("Password", hide_input=True, confirmation_prompt=True))
    return sys.stdin.readline().rstrip("\n")

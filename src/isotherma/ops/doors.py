"""Who may reach the server: at home this machine alone, one's own phones, or people who sign in."""

from __future__ import annotations

import os
import socket
from argparse import Namespace

import segno

from isotherma.services.accounts import Accounts
from isotherma.settings import Settings, is_loopback


def refused(options: Namespace) -> str:
    """Say why it does not start so; "" where it does.

    Parameters
    ----------
    options : Namespace
        As they were typed. [-]

    Returns
    -------
    str
        A sentence with the way out. [-]
    """
    if options.lan and options.accounts:
        return "Choose one: --lan is for your own phones, --accounts for people who sign in."
    if options.host and not is_loopback(options.host) and not (options.lan or options.accounts):
        return (
            f"It was asked to listen on {options.host}, where others reach it, and everything "
            "would be theirs. Add --lan for your own phones, or --accounts for people who sign in."
        )
    return ""


def host_of(options: Namespace) -> str:
    """Give the address to listen on.

    Parameters
    ----------
    options : Namespace
        As they were typed. [-]

    Returns
    -------
    str
        Loopback, unless phones are to come in or it was said. [-]
    """
    return options.host or ("0.0.0.0" if options.lan else "127.0.0.1")


def own_address() -> str:
    """Give this machine's address in its network; nothing is sent to find it.

    Returns
    -------
    str
        "127.0.0.1" where it is in none. [-]
    """
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as probe:
        try:
            probe.connect(("192.0.2.1", 9))  # a datagram socket only looks up its way
            return str(probe.getsockname()[0])
        except OSError:
            return "127.0.0.1"


def begin_mode(accounts: Accounts, options: Namespace) -> str:
    """Note how it is run; gives a code to show, if one is needed. Refused where it may not be.

    Parameters
    ----------
    accounts : Accounts
        Of the database. [-]
    options : Namespace
        As they were typed. [-]

    Returns
    -------
    str
        Of the first administrator, or of a phone. [-]
    """
    if options.accounts:
        return accounts.use_accounts() or ""
    accounts.use_none()
    return accounts.invite("phone") if options.lan else ""


def tell_environment(options: Namespace, settings: Settings, port: int) -> str:
    """Let the server's processes know how it is run; gives the address others reach it at.

    Parameters
    ----------
    options : Namespace
        As they were typed. [-]
    settings : Settings
        Of the environment. [-]
    port : int
        It listens on. [-]

    Returns
    -------
    str
        With its scheme; "" on this machine alone. [-]
    """
    mode = "accounts" if options.accounts else "lan" if options.lan else "alone"
    address = (options.address or settings.address).rstrip("/")
    hosts = list(settings.hosts)
    if not address and options.lan:
        address = f"http://{own_address()}:{port}"
    named = address.partition("://")[2].partition("/")[0].rpartition(":")
    name = named[0] or named[2]
    if name and name not in hosts:
        hosts.append(name)
    if options.host and not is_loopback(options.host) and options.host not in (*hosts, "0.0.0.0"):
        hosts.append(options.host)
    os.environ["ISOTHERMA_MODE"] = mode
    os.environ["ISOTHERMA_ADDRESS"] = address
    os.environ["ISOTHERMA_HOSTS"] = ",".join(hosts)
    if options.plain_http:
        os.environ["ISOTHERMA_PLAIN_HTTP"] = "1"
    return address


def say_code(options: Namespace, address: str, port: int, code: str) -> None:
    """Print a code that works once, for whoever stands at the console.

    Parameters
    ----------
    options : Namespace
        As they were typed. [-]
    address : str
        Where others reach it, "" on this machine alone. [-]
    port : int
        It listens on. [-]
    code : str
        The code. [-]

    Returns
    -------
    None
        Nothing. [-]
    """
    at = address or f"http://127.0.0.1:{port}"
    if options.accounts:
        print(f"\nNobody has an account yet. Make the administrator's, once, within a day:\n"
              f"  {at}/invitation/{code}\n", flush=True)  # fmt: skip
        return
    path = f"{at}/pair/{code}"
    print("\nPair a phone, once, within a quarter of an hour. This goes without TLS: whoever "
          f"shares the network could read along.\n  {path}\n", flush=True)  # fmt: skip
    segno.make(path, error="l").terminal(compact=True)

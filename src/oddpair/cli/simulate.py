"""Small stand-ins for what lies outside, for trying things out on this machine."""

from typing import Annotated

import typer

from .server import PortOption

simulate = typer.Typer(
    help="Small stand-ins for what lies outside: a receiver of events, a business register, an identity provider.",
    no_args_is_help=True,
)


def _serve(app: object, port: int) -> None:
    import uvicorn

    typer.echo(f"http://127.0.0.1:{port}/ answers; Ctrl+C ends it")
    uvicorn.run(app, host="127.0.0.1", port=port, log_level="warning")  # type: ignore[arg-type]


@simulate.command()
def receiver(
    secret: Annotated[str, typer.Option(help="Secret with which events are signed, as it was shown.")],
    port: PortOption = None,
) -> None:
    """Receive events: what came is told at its address; PUT /sleep lets it answer 503."""
    from ..simulated.receiver import create_receiver

    _serve(create_receiver(secret), port or 8480)


@simulate.command("business-register")
def business_register(port: PortOption = None) -> None:
    """Answer as a business register would that knows the firms of the demo."""
    from ..simulated.business_register import create_business_register

    _serve(create_business_register(), port or 8481)


@simulate.command("identity-provider")
def identity_provider(port: PortOption = None) -> None:
    """Answer as an OpenID Connect provider would whose people are chosen on its page."""
    from ..simulated.identity_provider import create_identity_provider

    _serve(create_identity_provider(f"http://127.0.0.1:{port or 8482}"), port or 8482)

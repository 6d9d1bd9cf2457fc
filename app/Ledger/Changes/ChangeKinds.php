<?php

declare(strict_types=1);

namespace App\Ledger\Changes;

use App\Ledger\Proofs\ProofBody;
use Illuminate\Contracts\Foundation\Application;
use OutOfBoundsException;

/**
 * The kinds of changes that are installed.
 */
final class ChangeKinds
{
    /** @var array<string, ChangeKind> by name */
    private array $kinds = [];

    /** @var array<string, ProofBody> by name */
    private array $bodies = [];

    public function __construct(private readonly Application $app)
    {
    }

    public function register(ChangeKind ...$kinds): void
    {
        foreach ($kinds as $kind) {
            $this->kinds[$kind->name] = $kind;
        }
    }

    /** @throws OutOfBoundsException where its capability is not installed any more */
    public function of(string $name): ChangeKind
    {
        return $this->kinds[$name] ?? throw new OutOfBoundsException("No capability that is installed knows changes of the kind {$name}.");
    }

    public function executor(string $name): ChangeExecutor
    {
        return $this->app->make($this->of($name)->executor);
    }

    public function registerBody(ProofBody ...$bodies): void
    {
        foreach ($bodies as $body) {
            $this->bodies[$body->name] = $body;
        }
    }

    /** @throws OutOfBoundsException where its capability is not installed any more */
    public function body(string $name): ProofBody
    {
        return $this->bodies[$name] ?? throw new OutOfBoundsException("No capability that is installed knows proofs of the kind {$name}.");
    }
}

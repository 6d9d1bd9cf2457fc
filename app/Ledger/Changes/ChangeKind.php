<?php

declare(strict_types=1);

namespace App\Ledger\Changes;

use App\Ledger\Models\Change;
use Closure;

/**
 * A kind of change a capability registers: who carries it out, who decides on it, and how its page speaks of it.
 */
final readonly class ChangeKind
{
    /**
     * @param  class-string<ChangeExecutor>  $executor
     * @param  string  $ability of who rehearses, approves, applies and undoes it
     * @param  bool  $urgent whether it goes before work that rewrites tables: what closes access must not wait
     * @param  bool  $measured whether it is judged by statements people choose, with what it should save
     * @param  bool  $secondPerson whether somebody else may be asked to approve it
     * @param  bool  $estimates whether its proof shows how well the planner estimated
     * @param  (Closure(Change): string)|null  $address the page of what it changes
     * @param  (Closure(Change): ?string)|null  $undoing how it is undone in words; null, or the statements, where those say it
     * @param  (Closure(string): string)|null  $shown a statement as it may be shown
     * @param  (Closure(Change): string)|null  $handedOn what a proof that leaves the house says instead of the statements
     * @param  (Closure(Change): array<int, string>)|null  $places where it may be rehearsed: names of clusters by their ids, the one that
     *     is changed first
     * @param  (Closure(Change): list<array{string, string}>)|null  $costs what rehearsing and applying it take, label and value
     */
    public function __construct(
        public string $name,
        public string $executor,
        public string $ability = 'run',
        public bool $urgent = false,
        public bool $measured = true,
        public bool $secondPerson = true,
        public bool $estimates = false,
        public string $stepsTitle = 'What is run',
        public string $proofTitle = 'Proof, on the table itself',
        public string $limitsTitle = '',
        private ?Closure $address = null,
        private ?Closure $undoing = null,
        private ?Closure $shown = null,
        private ?Closure $handedOn = null,
        private ?Closure $places = null,
        private ?Closure $costs = null,
    ) {
    }

    public function address(Change $change): string
    {
        return $this->address === null ? address('layout.show', [$change->cluster->slug, $change->object]) : ($this->address)($change);
    }

    public function undoing(Change $change): ?string
    {
        $words = $this->undoing === null ? null : ($this->undoing)($change);

        return $words ??
            match ($change->inverse) {
                InverseKind::Version => 'The version of the table before the rewriting is published again; rows that came since stay.',
                InverseKind::None => 'It cannot be undone, and need not be: what goes is needed by no kept version.',
                default => null,
            };
    }

    /**
     * @return array<int, string> the clusters it may be rehearsed on, by id
     */
    public function places(Change $change): array
    {
        return $this->places === null ? [] : ($this->places)($change);
    }

    /**
     * @return list<array{string, string}> what rehearsing and applying it take, label and value
     */
    public function costs(Change $change): array
    {
        return $this->costs === null ? [] : ($this->costs)($change);
    }

    /** What a proof that leaves the house says of the steps; null where they are shown as they are. */
    public function handedOn(Change $change): ?string
    {
        return $this->handedOn === null ? null : ($this->handedOn)($change);
    }

    /**
     * @return list<string>
     */
    public function steps(Change $change): array
    {
        return $this->shown === null ? $change->sealed_steps : array_map($this->shown, $change->sealed_steps);
    }
}

<?php

declare(strict_types=1);

namespace App\Ledger\Findings;

use App\Ledger\Models\Finding;
use Closure;

/**
 * A capability that finds things: who decides on them, and how their pages lead on.
 */
final readonly class FindingSource
{
    /**
     * @param  string  $deciders who decides, for those who may not
     * @param  string  $acts view of the buttons that fix it; empty where a person has to decide
     * @param  (Closure(Finding): ?array{string, string})|null  $home name and address of the page it belongs to
     * @param  (Closure(Finding): string)|null  $rule address of the rule that found it
     */
    public function __construct(
        public string $name,
        public string $ability = 'run',
        public string $deciders = 'Changes are proposed by engineers.',
        public string $acts = '',
        /** How its weights come about. */
        public string $weighed = 'modelled',
        /** Whether its evidence says more than the page of its statement, so that lists lead there first. */
        public bool $evidenceFirst = false,
        private ?Closure $home = null,
        private ?Closure $rule = null,
    ) {
    }

    /**
     * @return array{string, string}|null
     */
    public function home(Finding $finding): ?array
    {
        return $this->home === null ? null : ($this->home)($finding);
    }

    public function rule(Finding $finding): ?string
    {
        return $this->rule === null ? null : ($this->rule)($finding);
    }
}

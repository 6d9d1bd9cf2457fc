<?php

declare(strict_types=1);

namespace App\Ledger\Changes;

use App\Estate\Connectors\SourceError;
use App\Ledger\Models\Change;
use App\Platform\Runs\Progress;

/**
 * Carries out changes of the kinds a capability registers. Whatever goes wrong, what it works on is left as it was.
 */
interface ChangeExecutor
{
    /** Fills in what depends on the number of a change that has just been proposed. */
    public function prepare(Change $change, Proposal $proposal): void;

    /** @throws SourceError */
    public function rehearse(Change $change, string $by, Progress $progress): void;

    /** @throws SourceError */
    public function apply(Change $change, string $by, Progress $progress): void;

    /** @throws SourceError */
    public function undo(Change $change, string $by, Progress $progress): void;

    /**
     * Clears away what an error left half done.
     *
     * @return string what can be said for sure of what it works on, as a sentence; empty where nothing can
     *
     * @throws SourceError
     */
    public function withdraw(Change $change, ChangeAction $action): string;

    /**
     * Ends what a killed worker left.
     *
     * @return string|null what is to be known; null where the action turned out to be through
     *
     * @throws SourceError
     */
    public function recover(Change $change, ChangeAction $action): ?string;
}

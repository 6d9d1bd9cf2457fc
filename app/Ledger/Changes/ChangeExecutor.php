<?php

declare(strict_types=1);

namespace App\Ledger\Changes;

use App\Estate\Connectors\SourceError;
use App\Ledger\Models\Change;
use Closure;

/**
 * Rehearses, applies and undoes changes of kinds a bench brings along.
 */
interface ChangeExecutor
{
    public function does(string $kind): bool;

    /**
     * @param  Closure(string, float): void  $tell what is being done, and what share is done
     *
     * @throws SourceError
     */
    public function rehearse(Change $change, string $by, Closure $tell): void;

    /**
     * @param  Closure(string, float): void  $tell
     *
     * @throws SourceError
     */
    public function apply(Change $change, string $by, Closure $tell): void;

    /**
     * @param  Closure(string, float): void  $tell
     *
     * @throws SourceError
     */
    public function undo(Change $change, string $by, Closure $tell): void;

    /** Ends what a killed worker left, in words of what was done. */
    public function recover(Change $change): string;
}

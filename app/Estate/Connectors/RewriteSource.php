<?php

declare(strict_types=1);

namespace App\Estate\Connectors;

use Closure;
use Fulcrion\Core\Proofs\Measured;

/**
 * A cluster whose planner tells what it made of a statement, and can leave a rewrite out.
 */
interface RewriteSource
{
    /**
     * Rewrites that changed the plan of a statement, by name.
     *
     * @return array<string, array{title: string, words: string,
     *     estimatedRows: float}> the last is what all steps together were expected to handle without it
     *
     * @throws SourceError
     */
    public function rewrites(string $sql, string $schema): array;

    /** Rows all steps of the plan are expected to handle. */
    public function estimatedRows(string $sql, string $schema): float;

    /**
     * What the statement does, with all rewrites or without one.
     *
     * @param  Closure(): bool  $cancelled
     *
     * @throws SourceError
     */
    public function measureWithout(string $sql, string $schema, ?string $rewrite, Closure $cancelled): Measured;
}

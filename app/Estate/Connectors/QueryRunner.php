<?php

declare(strict_types=1);

namespace App\Estate\Connectors;

use Closure;
use Fulcrion\Core\Limits\RunMeter;
use Fulcrion\Core\Limits\StatementEstimate;
use Fulcrion\Core\Plans\Plan;

/**
 * A cluster statements can be tried on.
 */
interface QueryRunner
{
    /** Whether statements that change something can be run. */
    public function changes(): bool;

    /**
     * @return list<string> names of its functions, for completion
     */
    public function functions(): array;

    /**
     * @param  Closure(): bool  $cancelled asked now and then
     * @param  bool  $careful whether errors must not tell of rows a view or filter leaves out
     * @param  RunMeter|null  $meter learns what it reads and takes, and ends it
     *
     * @throws SourceError
     */
    public function run(
        string $sql,
        string $schema,
        string $user,
        Closure $cancelled,
        bool $careful = false,
        ?RunMeter $meter = null,
    ): QueryResult;

    /**
     * The plan of a statement, with what it did where it is run.
     *
     * @param  Closure(): bool  $cancelled asked now and then
     *
     * @throws SourceError
     */
    public function plan(
        string $sql,
        string $schema,
        string $user,
        bool $run,
        Closure $cancelled,
        bool $careful = false,
        ?RunMeter $meter = null,
    ): Plan;

    /**
     * What a statement will read at most, before it is run; null where that is not known.
     *
     * @throws SourceError
     */
    public function estimate(string $sql, string $schema, string $user, bool $careful = false): ?StatementEstimate;
}

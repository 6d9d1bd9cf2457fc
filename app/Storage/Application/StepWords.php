<?php

declare(strict_types=1);

namespace App\Storage\Application;

use Fulcrion\Core\Sql\Ast\Analyze;
use Fulcrion\Core\Sql\Ast\CreateRollup;
use Fulcrion\Core\Sql\Ast\CreateTable;
use Fulcrion\Core\Sql\Ast\Drop;
use Fulcrion\Core\Sql\Ast\Insert;
use Fulcrion\Core\Sql\Ast\Maintain;
use Fulcrion\Core\Sql\Ast\Rename;
use Fulcrion\Core\Sql\Parser;
use Fulcrion\Core\Sql\SyntaxError;

/**
 * What a statement of a change does, for people who wait for it.
 */
final readonly class StepWords
{
    public static function of(string $sql): string
    {
        try {
            $statement = (new Parser())->statement($sql);
        } catch (SyntaxError) {
            return 'running a statement';
        }

        return match (true) {
            $statement instanceof CreateTable => 'making the new table',
            $statement instanceof CreateRollup => $statement->kind === CreateRollup::LOOKUP ? 'making a lookup' : 'computing a rollup',
            $statement instanceof Insert => 'copying the rows',
            $statement instanceof Analyze => 'collecting statistics',
            $statement instanceof Rename => 'comparing the contents, then swapping the names',
            $statement instanceof Maintain => 'rewriting chunks',
            $statement instanceof Drop => 'clearing up',
            default => 'running a statement',
        };
    }
}

<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql\Ast;

/**
 * EXPLAIN, alone or with a run.
 */
final readonly class Explain extends Statement
{
    public function __construct(int $at, public bool $run, public Statement $statement)
    {
        parent::__construct($at);
    }
}

<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql\Ast;

/**
 * ANALYZE: collect statistics.
 */
final readonly class Analyze extends Statement
{
    /**
     * @param  list<string>  $table
     * @param  list<string>  $columns
     */
    public function __construct(int $at, public array $table, public array $columns)
    {
        parent::__construct($at);
    }
}

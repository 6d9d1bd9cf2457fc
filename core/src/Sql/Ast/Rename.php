<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql\Ast;

/**
 * ALTER TABLE ... RENAME TO ..., RENAME TABLE ... TO ....
 */
final readonly class Rename extends Statement
{
    /**
     * @param  list<string>  $table
     */
    public function __construct(
        int $at,
        public array $table,
        public string $to,
    ) {
        parent::__construct($at);
    }
}

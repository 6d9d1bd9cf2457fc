<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql\Ast;

/**
 * COPY table FROM file.
 */
final readonly class Copy extends Statement
{
    /**
     * @param  list<string>  $table
     * @param  list<string>  $columns
     * @param  list<TableOption>  $options
     */
    public function __construct(int $at, public array $table, public array $columns, public string $path, public array $options)
    {
        parent::__construct($at);
    }
}

<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql\Ast;

/**
 * CREATE ROLLUP or CREATE LOOKUP: answers prepared from tables and kept beside them.
 */
final readonly class CreateRollup extends Statement
{
    public const ROLLUP = 'ROLLUP';

    public const LOOKUP = 'LOOKUP';

    /**
     * @param  self::ROLLUP|self::LOOKUP  $kind
     * @param  list<string>  $name
     * @param  list<TableOption>  $options
     */
    public function __construct(
        int $at,
        public string $kind,
        public array $name,
        public array $options,
        public Query $query,
        public bool $orReplace,
    ) {
        parent::__construct($at);
    }
}

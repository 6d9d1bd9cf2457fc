<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql\Ast;

/**
 * A value: literal, reference, operation or subquery.
 */
abstract readonly class Expression extends Node
{
}

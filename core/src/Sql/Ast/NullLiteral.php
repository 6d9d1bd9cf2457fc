<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql\Ast;

/**
 * NULL.
 */
final readonly class NullLiteral extends Expression
{
}

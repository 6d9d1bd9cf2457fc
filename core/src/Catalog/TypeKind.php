<?php

declare(strict_types=1);

namespace Fulcrion\Core\Catalog;

/**
 * The kinds of values, and the PHP value each is held in; NULL is null.
 */
enum TypeKind: string
{
    /** int */
    case Bigint = 'bigint';
    /** float */
    case Double = 'double';
    /** int: the value without its point, 12.30 at scale 2 is 1230 */
    case Decimal = 'decimal';
    /** string, compared byte by byte */
    case Text = 'text';
    /** bool */
    case Boolean = 'boolean';
    /** int: days since 1970-01-01 */
    case Date = 'date';
    /** int: microseconds since 1970-01-01 00:00 UTC */
    case Timestamp = 'timestamp';
}

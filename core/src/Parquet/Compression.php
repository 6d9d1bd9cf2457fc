<?php

declare(strict_types=1);

namespace Fulcrion\Core\Parquet;

enum Compression: int
{
    case None = 0;
    case Gzip = 2;
}

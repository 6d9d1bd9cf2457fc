<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Expression;

use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Catalog\TypeKind;

final readonly class Constant extends Expr
{
    public function __construct(public int|float|string|bool|null $value, ColumnType $type)
    {
        parent::__construct($type, $value === null);
    }

    public static function true(): self
    {
        return new self(true, ColumnType::of(TypeKind::Boolean));
    }

    public static function whole(int $value): self
    {
        return new self($value, ColumnType::of(TypeKind::Bigint));
    }

    public function key(): string
    {
        return $this->type.':'.(is_float($this->value) ? bin2hex(pack('E', $this->value)) : json_encode($this->value));
    }

    public function text(): string
    {
        $shown = $this->type->show($this->value);

        return match (true) {
            $this->value === null => 'NULL',
            $this->type->is(TypeKind::Text) => "'".str_replace("'", "''", $shown)."'",
            $this->type->is(TypeKind::Date) => "DATE '{$shown}'",
            $this->type->is(TypeKind::Timestamp) => "TIMESTAMP '{$shown}'",
            default => $shown,
        };
    }
}

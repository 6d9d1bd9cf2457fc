<?php

declare(strict_types=1);

namespace App\Ledger\Models;

use Illuminate\Database\Eloquent\Model;

/**
 * Who is told of findings.
 *
 * @property int $id
 * @property string $kind mail or webhook
 * @property string $target address; kept encrypted since webhook addresses carry secrets
 * @property bool $digest
 * @property bool $paused
 * @property string $made_by
 */
final class Subscription extends Model
{
    public $timestamps = false;

    protected $guarded = ['id'];

    protected function casts(): array
    {
        return ['target' => 'encrypted', 'digest' => 'bool', 'paused' => 'bool'];
    }

    /** Without what may be a secret. */
    public function shown(): string
    {
        return $this->kind === 'webhook' ? (string) preg_replace('~^(https?://[^/?#]+).*$~', '$1/…', $this->target) : $this->target;
    }
}

<?php

declare(strict_types=1);

namespace App\Storage\Http\Requests;

use Illuminate\Foundation\Http\FormRequest;

/**
 * What a form or a caller sends to LayoutController::propose().
 */
final class ProposeLayoutRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return ['kind' => ['required', 'in:together,compaction,clustering,partitions,distribution,statistics']];
    }
}

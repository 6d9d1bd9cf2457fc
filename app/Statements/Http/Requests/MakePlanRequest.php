<?php

declare(strict_types=1);

namespace App\Statements\Http\Requests;

use Illuminate\Foundation\Http\FormRequest;

/**
 * What a form or a caller sends to PlanController::ofStatement().
 */
final class MakePlanRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return ['cluster' => ['required', 'exists:clusters,slug'], 'mode' => ['required', 'in:explain,actual']];
    }
}
